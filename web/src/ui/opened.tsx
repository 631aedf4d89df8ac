// Parts of MUI that nobody sees at first: each is loaded when one is opened or shown.
import type { DialogProps } from "@mui/material/Dialog";
import type { MenuProps } from "@mui/material/Menu";
import type { PopoverProps } from "@mui/material/Popover";
import type { SliderProps } from "@mui/material/Slider";
import type { TextFieldProps } from "@mui/material/TextField";
import { type ComponentType, type ReactElement, Suspense, useState } from "react";
import { later } from "./later";
import type { MenuOf as OneMenu } from "./MenuOf";

type MenuOfProps = Parameters<typeof OneMenu>[0];

/** Whether something has been open, once at least. */
function useEver(open: boolean): boolean {
  const [ever, setEver] = useState(open);
  if (open && !ever) setEver(true);
  return ever;
}

/** Draws nothing until it is opened once; from then on it is there, so that it can close as it does. */
function whenOpened<P extends { open: boolean }>(Part: ComponentType<P>) {
  return function Opened(props: P) {
    return useEver(props.open) ? (
      <Suspense>
        <Part {...props} />
      </Suspense>
    ) : null;
  };
}

export const Menu = whenOpened<MenuProps>(later(() => import("@mui/material/Menu").then((m) => m.default)));
const LazyMenuOf = later(() => import("./MenuOf").then((m) => m.MenuOf));
/** A menu at an element, or closed without one. */
export function MenuOf(props: MenuOfProps) {
  return useEver(!!props.at) ? (
    <Suspense>
      <LazyMenuOf {...props} />
    </Suspense>
  ) : null;
}
export const Popover = whenOpened<PopoverProps>(later(() => import("@mui/material/Popover").then((m) => m.default)));
export const Dialog = whenOpened<DialogProps>(later(() => import("@mui/material/Dialog").then((m) => m.default)));

const LazySlider = later(() => import("@mui/material/Slider").then((m) => m.default));
export const Slider = (props: SliderProps) => (
  <Suspense>
    <LazySlider {...props} />
  </Suspense>
);

const LazyTextField = later(() => import("@mui/material/TextField").then((m) => m.default));
export const TextField = (props: TextFieldProps) => (
  <Suspense>
    <LazyTextField {...props} />
  </Suspense>
);

const LazyTooltip = later(() => import("@mui/material/Tooltip").then((m) => m.default));
/** What is said of something while it is pointed at. */
export function Tip({ title, children }: { title: string; children: ReactElement }) {
  const [ever, setEver] = useState(false);
  if (!ever)
    return (
      <span style={{ display: "contents" }} onPointerEnter={() => setEver(true)} onFocus={() => setEver(true)}>
        {children}
      </span>
    );
  return (
    <Suspense fallback={children}>
      <LazyTooltip title={title} placement="left">
        {children}
      </LazyTooltip>
    </Suspense>
  );
}
