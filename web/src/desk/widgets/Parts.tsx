import { actOnParts } from "../viewing";
import { useDesk } from "../store";
import { Choice } from "../../ui/Choice";

/** What edits of poses, columns and timing act on; bare without its label, where there is little room. */
export function Parts({ bare = false }: { bare?: boolean }) {
  const parts = useDesk((s) => s.parts);
  const chosen = useDesk((s) => s.selection.length);
  return (
    <Choice
      label="Parts"
      show={!bare}
      value={parts}
      options={[
        { value: "whole", label: "Whole character" },
        { value: "selection", label: `Selection (${chosen})` },
      ]}
      onChange={actOnParts}
    />
  );
}
