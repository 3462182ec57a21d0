import { Component, type ReactNode } from "react";
import { ErrorAlert } from "../ErrorAlert";

interface Props {
  /** Another one is shown afresh. */
  page: string;
  children: ReactNode;
}

/** Shows an error of one page within it, so that the rest of the application keeps working. */
export class ErrorBoundary extends Component<Props, { error: Error | null }> {
  override state = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override componentDidUpdate(before: Props) {
    if (before.page !== this.props.page && this.state.error) this.setState({ error: null });
  }

  override render() {
    const { error } = this.state as { error: Error | null };
    if (!error) return this.props.children;
    return (
      <div className="mx-auto max-w-2xl p-8">
        <ErrorAlert
          error="This page failed with an internal error. Your project is unchanged; the browser's console names the error."
          cure={
            <button type="button" className="btn btn-xs" onClick={() => window.location.reload()}>
              Reload the page
            </button>
          }
        />
      </div>
    );
  }
}
