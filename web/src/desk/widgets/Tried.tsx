import type { AnyEdit } from "../../model/types";
import { SmallButton } from "../../ui/SmallButton";
import { leaveTry, tryEdit } from "../posing";
import { commit } from "../steps";

/** An edit that is seen while its button is pointed at, and made when it is clicked. */
export function Tried(p: { label: string; said?: string; title?: string; edit: AnyEdit; disabled: boolean }) {
  return (
    <SmallButton
      disabled={p.disabled}
      title={p.title ?? "While the pointer is here, the stage shows how it would be"}
      aria-label={p.said}
      onPointerEnter={() => tryEdit(p.edit)}
      onPointerLeave={leaveTry}
      onFocus={() => tryEdit(p.edit)}
      onBlur={leaveTry}
      onClick={() => void commit(p.edit)}
    >
      {p.label}
    </SmallButton>
  );
}
