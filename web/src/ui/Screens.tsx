import { Component, type ReactNode } from "react";
import { Button } from "./controls";
import { Heading } from "./Heading";

type Props = { at: string; children: ReactNode };

/**
 * What keeps a screen that fails from taking the frame with it: its script may be out of reach, or be gone since a new
 * version is served. What was typed is kept by the device.
 */
export class Screens extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override componentDidUpdate(before: Props) {
    if (this.state.failed && before.at !== this.props.at) this.setState({ failed: false });
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <div className="p-4">
        <section className="card card-border bg-base-100 flex flex-col items-start gap-3 p-4" role="alert">
          <Heading className="text-xl">This screen cannot be shown.</Heading>
          <p>The network may be away, or the program was renewed. What you typed is kept on this device.</p>
          <Button kind="main" onClick={() => window.location.reload()}>
            Load the page again
          </Button>
        </section>
      </div>
    );
  }
}
