import { Component, type ReactNode } from 'react'
import { wordsOf } from '../api/client'

/** Keeps a failing view from taking the page with it, and says the way out. */
export class ErrorBoundary extends Component<{ children: ReactNode }, { failed: unknown }> {
  override state = { failed: undefined as unknown }

  static getDerivedStateFromError(failed: unknown) {
    return { failed }
  }

  override render() {
    if (this.state.failed === undefined) return this.props.children
    return (
      <div className="notice notice-bad m-5" role="alert">
        This view stopped: {wordsOf(this.state.failed)}. Nothing was lost.{' '}
        <button type="button" className="button ml-2" onClick={() => location.reload()}>
          Load it again
        </button>
      </div>
    )
  }
}
