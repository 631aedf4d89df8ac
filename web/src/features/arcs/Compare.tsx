import { changeCompare, compareWith, flip, stopComparing } from "../../desk/comparing";
import { useHistory } from "../../desk/looking";
import type { CompareHow, CompareWith } from "../../desk/other";
import { layersOf } from "../../model/layers";
import { type Member, useDesk } from "../../desk/store";
import { Acts } from "../../ui/Acts";
import { Choice } from "../../ui/Choice";
import { Line, Said, Section } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";

/** Two states of the history, two takes, or with and without a layer: over one another, beside, or flipped. */
export function Compare({ member }: { member: Member }) {
  const compared = useDesk((s) => s.compared);
  const shot = useDesk((s) => s.shot)!;
  const takeId = useDesk((s) => s.takeId);
  const steps = useHistory();
  const history = (steps.data ?? []).filter((step) => !step.head).slice(0, 40);
  const takes = shot.takes.filter((take) => take.id !== takeId);
  const layers = layersOf(member.clip);
  const choose = (other: CompareWith) => void compareWith(other);
  return (
    <Section title="Before and after" hint={compared ? `beside ${compared.with.label}` : "nothing to compare with yet"}>
      <Line>
        <Acts
          label="A step of the history"
          disabled={!history.length}
          acts={[
            ...history.map((step) => ({
              label: `After “${step.label}”`,
              hint: step.state === "done" ? "" : step.state,
              act: () => choose({ what: "step", step: step.id, label: `“${step.label}”` }),
            })),
            { label: "The beginning", act: () => choose({ what: "step", step: 0, label: "the beginning" }) },
          ]}
        />
        <Acts
          label="A take"
          disabled={!takes.length}
          acts={takes.map((take) => ({
            label: take.name,
            act: () => choose({ what: "take", take: take.id, label: take.name }),
          }))}
        />
        <Acts
          label="Without a layer"
          disabled={!layers.length}
          acts={layers.map(({ number, layer }) => ({
            label: `Without ${layer.name}`,
            act: () => choose({ what: "layer", casting: member.id, layer: number, label: `it without ${layer.name}` }),
          }))}
        />
      </Line>
      {compared && (
        <>
          <Line>
            <Choice<CompareHow>
              label="Shown"
              show
              value={compared.how}
              options={[
                { value: "ghosts", label: "as ghosts over it" },
                { value: "beside", label: "side by side" },
                { value: "flip", label: "flipped", hint: "Q" },
              ]}
              onChange={(how) => changeCompare({ how })}
            />
            <SmallButton on={compared.how === "flip" && compared.flipped} onClick={flip} title="Q">
              {compared.how === "flip" && compared.flipped ? "Seeing the other" : "Flip"}
            </SmallButton>
            <SmallButton onClick={stopComparing}>Stop</SmallButton>
          </Line>
          <Said>
            {compared.how === "ghosts"
              ? "The other one is the plain, see-through figure."
              : compared.how === "beside"
                ? "This one is on the left, the other on the right."
                : compared.flipped
                  ? "The other one stands on the stage; posing brings this one back."
                  : "Q shows the other one in its place."}
          </Said>
        </>
      )}
    </Section>
  );
}
