import { actOnParts } from "../viewing";
import { useDesk } from "../store";
import { Choice } from "../../ui/Choice";

/** What edits of poses, columns and timing act on. */
export function Parts() {
  const parts = useDesk((s) => s.parts);
  const chosen = useDesk((s) => s.selection.length);
  return (
    <Choice
      label="Parts"
      show
      value={parts}
      options={[
        { value: "whole", label: "Whole character" },
        { value: "selection", label: `Selection (${chosen})` },
      ]}
      onChange={actOnParts}
    />
  );
}
