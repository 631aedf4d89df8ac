// The mark at the end of a limb that is stretched.
import { beginDrag, cancelDrag, dragTo, endDrag } from "../../../desk/dragging";
import { active } from "../../../desk/store";
import { stretchedTo, stretchingOf } from "../stretch";
import type { Begin } from "./gesture";

export const takeStretch: Begin = ({ scene }, from) => {
  const of = scene.stretch.under(from) ? stretchingOf(active()!) : null;
  if (!of || !beginDrag([of.control])) return undefined;
  return {
    move(p, event) {
      const value = stretchedTo(of, from, p, { ...scene.on }, event.shiftKey);
      dragTo({ do: "set", values: { [of.address]: value } }, `${of.label} × ${value.toFixed(2)}`);
    },
    up: () => void endDrag(`Stretch: ${of.label}`),
    cancel: cancelDrag,
  };
};
