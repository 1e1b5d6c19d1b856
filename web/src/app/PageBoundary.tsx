import { Component, type ReactNode } from "react";
import { useLocation } from "react-router";
import { Problem } from "~/api/client";
import { Failed } from "~/ui/states";

const NOT_LOADED =
  "This page could not be loaded. Check that the server is running, then reload; nothing you sent is lost.";

interface Props {
  place: string;
  children: ReactNode;
}

/** A page that breaks, or whose code cannot be fetched, says so; the rest of the application stays usable. */
class Boundary extends Component<Props, { broken: boolean }> {
  state = { broken: false };

  static getDerivedStateFromError() {
    return { broken: true };
  }

  componentDidUpdate(before: Props) {
    if (this.state.broken && before.place !== this.props.place) this.setState({ broken: false });
  }

  render() {
    if (!this.state.broken) return this.props.children;
    return (
      <Failed
        error={new Problem(0, "page_not_loaded", NOT_LOADED)}
        onRetry={() => window.location.reload()}
      />
    );
  }
}

export function PageBoundary({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  return <Boundary place={pathname}>{children}</Boundary>;
}
