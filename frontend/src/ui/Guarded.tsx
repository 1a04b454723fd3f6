import { Component, type ReactNode } from "react";
import { useLocation } from "react-router";
import { Button } from "./Button.tsx";

type Props = { place: string; children: ReactNode };

/** Shows a sentence and a way back where a part of the page cannot be drawn, instead of a blank page. */
class Boundary extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override componentDidUpdate(before: Props) {
    if (before.place !== this.props.place && this.state.failed) this.setState({ failed: false });
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <main className="p-8 txt-15">
        <p role="alert" className="text-failed">
          This page cannot be shown: something went wrong in it. What you typed before is kept, and nothing was sent by it.
        </p>
        <div className="mt-4 flex gap-3">
          <Button kind="act" onClick={() => window.location.reload()}>
            Open it again
          </Button>
          <Button onClick={() => window.location.assign("/")}>Back to the rounds</Button>
        </div>
      </main>
    );
  }
}

/** The same for whatever page is open; another page begins anew. */
export function Guarded({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  return <Boundary place={pathname}>{children}</Boundary>;
}
