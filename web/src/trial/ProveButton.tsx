import { useProve } from '../recipes/useProofs'
import type { Aim, Wish } from '../api/types'
import { Button } from '../shared/Button'
import type { ButtonProps } from '../shared/Button'

interface ProveButtonProps extends ButtonProps {
  burn: number
  step: number | undefined
  /** What is to be proven: what was chosen for an aim, or what a patch got. */
  proved: { aim: Aim; wish: Wish } | { patch: string }
}

/** One press to a plate of one real, intricate shape with these very settings. */
export function ProveButton({ burn, step, proved, ...button }: ProveButtonProps) {
  const prove = useProve(burn, step, proved)
  return (
    <Button {...button} loading={prove.isPending} onClick={() => prove.mutate()}>
      Prove it on a real shape
    </Button>
  )
}
