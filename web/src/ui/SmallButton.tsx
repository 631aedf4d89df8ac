import ButtonBase, { type ButtonBaseProps } from "@mui/material/ButtonBase";
import { useInks } from "./look";

/** A button of the desk: 26 pixels high, drawn as on paper. */
export function SmallButton({ on, sx, ...rest }: ButtonBaseProps & { on?: boolean }) {
  const ink = useInks();
  return (
    <ButtonBase
      {...rest}
      aria-pressed={on}
      sx={{
        height: 26,
        px: 1,
        borderRadius: 1,
        border: 1,
        fontSize: 12,
        fontFamily: "inherit",
        whiteSpace: "nowrap",
        borderColor: on ? ink.blue : ink.edge,
        bgcolor: on ? ink.blue : ink.paper,
        color: on ? ink.paper : ink.ink,
        "&:hover": { borderColor: ink.blue },
        "&.Mui-disabled": { opacity: 0.45 },
        "&.Mui-focusVisible": { outline: `2px solid ${ink.blue}`, outlineOffset: 1 },
        ...sx,
      }}
    />
  );
}
