import Box from "@mui/material/Box";
import { Component, type ErrorInfo, type ReactNode } from "react";
import { SmallButton } from "./SmallButton";

interface Props {
  /** What failed, for the person: "The channels". */
  name: string;
  children: ReactNode;
}

/** Keeps an error inside one panel: the others go on, and the panel can be opened again. */
export class Boundary extends Component<Props, { error: Error | null }> {
  state = { error: null as Error | null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  componentDidCatch(error: Error, info: ErrorInfo) {
    console.error(error, info.componentStack);
  }

  render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <Box role="alert" sx={{ p: 2, display: "grid", gap: 1, justifyItems: "start", overflow: "auto" }}>
        <b>{this.props.name} stopped working.</b>
        <span>Everything else goes on, and all steps made are stored. ({error.message})</span>
        <SmallButton onClick={() => this.setState({ error: null })}>Open it again</SmallButton>
      </Box>
    );
  }
}
