import { closeSnackbar, enqueueSnackbar, SnackbarProvider } from "notistack";
import { useEffect } from "react";
import { showBy, type Way } from "./messages";
import { SmallButton } from "./SmallButton";

/** The ways on, as buttons of a message. */
const asActs = (ways: Way[]) =>
  function Acts(key: string | number) {
    return ways.map(({ label, act }) => (
      <SmallButton
        key={label}
        sx={{ mr: 0.5 }}
        onClick={() => {
          closeSnackbar(key);
          act();
        }}
      >
        {label}
      </SmallButton>
    ));
  };

/** Where messages are shown: at the foot of the stage on the left, beside the figure; at its head are the tools. */
export function Messages() {
  useEffect(
    () =>
      showBy((text, { ways, ...options }) =>
        enqueueSnackbar(text, ways ? { ...options, action: asActs(ways), autoHideDuration: 12_000 } : options),
      ),
    [],
  );
  return (
    <SnackbarProvider
      maxSnack={3}
      autoHideDuration={6000}
      anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
      classes={{ containerRoot: "messages" }}
    />
  );
}
