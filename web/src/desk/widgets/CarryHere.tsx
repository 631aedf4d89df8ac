import { Acts } from "../../ui/Acts";
import { Line, Word } from "../../ui/Section";
import { commit } from "../steps";
import { canChange, type Member, useDesk } from "../store";

/** The whole motion of another of the cast brought to this one; nothing where nobody else moves as it does. */
export function CarryHere({ member }: { member: Member }) {
  const cast = useDesk((s) => s.cast);
  const editable = useDesk((s) => canChange(s));
  const others = cast.filter((other) => other.id !== member.id && !other.prop && !member.prop);
  const carry = (figure: number, way: "in place" | "from here" | "along") =>
    commit({ kind: "carry", figure, way, controls: null, name: "Fitting" });
  if (!others.length) return null;
  return (
    <Line>
      <Acts
        label="Carry a motion here"
        disabled={!editable}
        acts={others.flatMap((other) => [
          {
            label: `Of ${other.name}, in place`,
            hint: "no way over the ground, nothing planted",
            act: () => void carry(other.id, "in place"),
          },
          {
            label: `Of ${other.name}, from here`,
            hint: "with its way, begun where this figure stands and as it faces",
            act: () => void carry(other.id, "from here"),
          },
          {
            label: `Of ${other.name}, along the other's way`,
            hint: "where the other one goes",
            act: () => void carry(other.id, "along"),
          },
        ])}
      />
      <Word>with a layer to fit it</Word>
    </Line>
  );
}
