import { enqueueSnackbar, SnackbarProvider } from "notistack";
import { useEffect } from "react";
import { showBy } from "./messages";

/** Where messages are shown: at the foot of the stage, where there is one; at its head are the tools. */
export function Messages() {
  useEffect(() => showBy(enqueueSnackbar), []);
  return (
    <SnackbarProvider
      maxSnack={3}
      autoHideDuration={6000}
      anchorOrigin={{ vertical: "bottom", horizontal: "center" }}
      classes={{ containerRoot: "messages" }}
    />
  );
}
