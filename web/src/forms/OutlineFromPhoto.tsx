import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { Camera } from 'lucide-react'
import { useRef } from 'react'
import { Link as RouterLink } from 'react-router'
import { outlineIn } from '../api/photos'
import { Button } from '../shared/Button'
import { rowsTyped } from './fields'

interface OutlineFromPhotoProps {
  onFound: (found: { outline: string; holes: string }) => void
}

/** Takes the corners and holes of a piece from a photo with the reference card beside it. */
export function OutlineFromPhoto({ onFound }: OutlineFromPhotoProps) {
  const input = useRef<HTMLInputElement>(null)
  const find = useMutation({
    mutationFn: outlineIn,
    onSuccess: ({ outline, holes }) => onFound({ outline: rowsTyped(outline), holes: rowsTyped(holes) }),
  })
  return (
    <Box mb="1">
      <input
        ref={input}
        type="file"
        accept="image/*"
        aria-label="Photo of the piece"
        hidden
        onChange={({ currentTarget }) => {
          const [file] = currentTarget.files ?? []
          if (file) find.mutate(file)
          currentTarget.value = ''
        }}
      />
      <Flex gap="3" align="center" wrap="wrap">
        <Button size="sm" loading={find.isPending} onClick={() => input.current?.click()}>
          <Camera size={16} /> From a photo
        </Button>
        <Text fontSize="13.5px" color="ink2" flex="1" minW="180px">
          From above, on something plain of another colour, the{' '}
          <RouterLink to="/print/reference-card" style={{ textDecoration: 'underline' }}>
            reference card
          </RouterLink>{' '}
          along its longer side.
        </Text>
      </Flex>
      {find.error && (
        <Text role="alert" color="emberOnSoft" fontSize="14.5px" mt="1">
          {find.error.message}
        </Text>
      )}
    </Box>
  )
}
