import { Flex } from '@chakra-ui/react'
import type { ReactNode } from 'react'

/** What is beside the point at the moment, folded away. */
export function FromFile({ title, open, children }: { title: string; open?: boolean; children: ReactNode }) {
  return (
    <details open={open}>
      <summary className="fold">{title}</summary>
      <Flex direction="column" gap="3" mt="2">
        {children}
      </Flex>
    </details>
  )
}
