import { Component, type ReactNode } from "react";

interface Props {
  /** What it is around, as a person calls it. */
  what: string;
  children: ReactNode;
}

/** Whatever goes wrong inside stays inside: the rest of the room goes on. */
export class ErrorBoundary extends Component<Props, { error: Error | undefined }> {
  override state = { error: undefined as Error | undefined };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override render() {
    if (!this.state.error) return this.props.children;
    return (
      <div className="notice" role="alert">
        <p>
          {this.props.what} cannot be shown: something in it went wrong ({this.state.error.message}). Nothing
          of your work is lost.
        </p>
        <button type="button" className="quiet-button" onClick={() => this.setState({ error: undefined })}>
          Show it again
        </button>
      </div>
    );
  }
}
