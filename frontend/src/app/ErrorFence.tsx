import { Component, type ReactNode } from "react";

/** Keeps a mistake in the interface from leaving an empty page. */
export class ErrorFence extends Component<{ children: ReactNode }, { error: Error | undefined }> {
  override state: { error: Error | undefined } = { error: undefined };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override render() {
    if (!this.state.error) return this.props.children;
    return (
      <main className="empty" role="alert">
        <h2>This screen made a mistake</h2>
        <p>Every edit that was confirmed is kept. Load the page again to go on.</p>
        <p className="muted">{this.state.error.message}</p>
        <button type="button" className="link" onClick={() => window.location.reload()}>
          Load the page again
        </button>
      </main>
    );
  }
}
