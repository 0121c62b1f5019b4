import { Component, lazy } from 'react'
import type { ComponentType, ReactNode } from 'react'
import { backOnline } from './online'
import { Failure } from './Parts'

/** Whether the server is there. */
const answers = () =>
  fetch(location.href, { method: 'HEAD' }).then(
    ({ ok }) => ok,
    () => false,
  )

/** A part of the app that comes when it is gone to; while there is no connection it comes when that is back. Some browsers
 * remember that it did not come and never ask again, so the page one has gone to is loaded anew then. */
export function later<Props extends object>(load: () => Promise<ComponentType<Props>>) {
  return lazy(async () => {
    let away = false
    for (;;) {
      try {
        return { default: await load() }
      } catch (error) {
        if (navigator.onLine) {
          // Only where the page would come: else it goes on as it is, and says so.
          if (!away || !(await answers())) throw error
          location.reload()
          await new Promise(() => undefined)
        }
        away = true
        await backOnline().done
      }
    }
  })
}

const BROKE =
  'This page broke off or could not be loaded; there may be a newer Rezept than the one in this tab. What is kept stays.'

/** Around what comes later, so that a part that does not come takes nothing else with it. Another `of` is tried anew. */
export class Arrives extends Component<{ of: string; children: ReactNode }, { lost: string | null }> {
  override state = { lost: null }

  override componentDidCatch() {
    this.setState({ lost: this.props.of })
  }

  static getDerivedStateFromError() {
    return { lost: '' }
  }

  override componentDidUpdate() {
    const { lost } = this.state
    if (lost && lost !== this.props.of) this.setState({ lost: null })
  }

  override render() {
    if (this.state.lost === null) return this.props.children
    return <Failure error={new Error(BROKE)} retry={() => location.reload()} />
  }
}
