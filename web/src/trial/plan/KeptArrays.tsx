import { Box, Flex, Link, Text } from '@chakra-ui/react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Download, Trash2 } from 'lucide-react'
import { memo, useState } from 'react'
import { answer, api } from '../../api/client'
import { useForget } from '../../api/stale'
import type { Design, ProcessKey } from '../../api/types'
import { Button } from '../../shared/Button'
import { TextField } from '../../shared/Fields'
import { FileButton } from '../../shared/FileButton'
import { useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'
import { Fold } from './Fold'
import type { Change } from './useDesign'
import { isRecord } from '../../shared/records'

const ARRAYS = ['arrays'] as const

interface KeptArraysProps {
  trial: number
  process: ProcessKey
  /** Whether it is a list, whose settings are this material's and nothing to keep for others. */
  listed: boolean
  /** The design as it stands when it is asked for, so that typing does not redraw this. */
  designNow: () => Design
  change: Change
}

/** Arrays kept under a name: laid round this material's starting point, given to others and taken from them. */
export const KeptArrays = memo(function KeptArrays(props: KeptArraysProps) {
  const { trial, process, listed, designNow, change } = props
  const { me, units } = useShop()
  const forget = useForget()
  const [name, setName] = useState('')
  const [notes, setNotes] = useState<string[]>([])
  const kept = useQuery({
    queryKey: ARRAYS,
    queryFn: ({ signal }) => answer(api.GET('/api/arrays', { signal })).then(({ arrays }) => arrays),
  })
  const again = () => forget('array')
  const keep = useMutation({
    mutationFn: () => answer(api.POST('/api/arrays', { body: { trial, name, design: designNow(), units } })),
    onSuccess: () => {
      setName('')
      return again()
    },
    onError: sayFailed,
  })
  const use = useMutation({
    mutationFn: (id: number) =>
      answer(api.POST('/api/arrays/{id}/design', { params: { path: { id } }, body: { trial } })),
    onSuccess: ({ notes: said, labels, ...array }) => {
      // What is lettered comes along; speed and power stay this material's.
      change((now) => ({
        ...now,
        ...array,
        labels: { ...now.labels, ...(labels as Partial<Design['labels']>) },
        listed: null,
        off: [],
        overrides: {},
      }))
      setNotes(said)
    },
    onError: sayFailed,
  })
  const retire = useMutation({
    mutationFn: (id: number) => answer(api.DELETE('/api/arrays/{id}', { params: { path: { id } } })),
    onSuccess: again,
    onError: sayFailed,
  })
  const fitting = kept.data?.filter((one) => one.process === process) ?? []
  return (
    <Fold title="Kept arrays" says={kept.data ? `${fitting.length} for this process` : ''}>
      {fitting.map((one) => (
        <Flex key={one.id} align="center" gap="2" minH="38px">
          <Text flex="1" minW="0" truncate title={`${one.name}, kept by ${one.by_name}`}>
            {one.name}
          </Text>
          <Button size="sm" loading={use.isPending} onClick={() => use.mutate(one.id)}>
            Use it here
          </Button>
          <Link href={`/api/arrays/${one.id}/file`} download aria-label={`Get the file of ${one.name}`} p="2">
            <Download size={17} aria-hidden="true" />
          </Link>
          {me.may_write && (
            <Button
              size="sm"
              look="link"
              aria-label={`Retire ${one.name}`}
              onClick={() => retire.mutate(one.id)}
            >
              <Trash2 size={17} aria-hidden="true" />
            </Button>
          )}
        </Flex>
      ))}
      {notes.map((note) => (
        <Text key={note} fontSize="14px" color="steel">
          {note}
        </Text>
      ))}
      {me.may_write && (
        <>
          {!listed && (
            <Flex gap="2" align="flex-end" mt="1">
              <Box flex="1">
                <TextField
                  label="Keep this array as"
                  value={name}
                  onChange={(event) => setName(event.currentTarget.value)}
                />
              </Box>
              <Button disabled={!name.trim()} loading={keep.isPending} onClick={() => keep.mutate()}>
                Keep
              </Button>
            </Flex>
          )}
          <BringIn onDone={again} />
        </>
      )}
    </Fold>
  )
})

/** An array from a file. */
function BringIn({ onDone }: { onDone: () => Promise<void> }) {
  const bring = useMutation({
    mutationFn: async (file: File) => {
      const document: unknown = JSON.parse(await file.text())
      if (!isRecord(document)) throw new SyntaxError('no object')
      return answer(api.POST('/api/arrays/file', { body: { document } }))
    },
    onSuccess: onDone,
    onError: (error) =>
      sayFailed(
        error instanceof SyntaxError ? new Error('This file is no JSON, so it is no kept array.') : error,
      ),
  })
  return (
    <FileButton
      label="File of an array"
      accept=".json,application/json"
      look="link"
      mt="1"
      loading={bring.isPending}
      onFile={(file) => bring.mutate(file)}
    >
      Bring one in from a file
    </FileButton>
  )
}
