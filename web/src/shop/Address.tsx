import { Flex, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ProblemError, answer, api } from '../api/client'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { Card } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayDone } from '../shared/toast'

/** Where the shop is reached: what the codes on printed cards lead to. */
export function Address() {
  const { inventory, me } = useShop()
  const client = useQueryClient()
  const kept = inventory.shop?.address ?? ''
  const [address, setAddress] = useState(kept)
  const keep = useMutation({
    mutationFn: () => answer(api.PUT('/api/shop/address', { body: { address } })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['shop'] })
      sayDone('Printed codes lead there from now on.')
    },
  })
  const error =
    keep.error instanceof ProblemError
      ? (keep.error.byPath().get('address') ?? keep.error.message)
      : keep.error?.message
  return (
    <Card p="4" maxW="640px">
      <Text color="ink2" mb="3">
        The codes on printed cards lead to this address. Without one they lead to wherever the card is printed
        from: now {location.origin}, which other machines may not reach.
      </Text>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          keep.mutate()
        }}
      >
        <Flex gap="3" align="flex-start" wrap="wrap">
          <TextField
            label="Address of the shop"
            placeholder="https://shop.example"
            inputMode="url"
            value={address}
            error={error}
            readOnly={!me.may_keep}
            minW="280px"
            onChange={(event) => setAddress(event.currentTarget.value)}
          />
          {me.may_keep && (
            <Button
              type="submit"
              look="ember"
              mt="24px"
              loading={keep.isPending}
              disabled={address.trim() === kept}
            >
              Keep
            </Button>
          )}
        </Flex>
      </form>
      <AskSomebody least="keeper" to="change it" />
    </Card>
  )
}
