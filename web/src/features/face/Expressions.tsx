import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http, send, type Schemas } from "../../api/client";
import { queries } from "../../api/queries";
import { useLookUp, useRested } from "../../desk/looking";
import { pictureAt } from "../../desk/pictures";
import { leaveTry, tryEdit } from "../../desk/posing";
import { commitNumber } from "../../desk/amounts";
import { say } from "../../desk/steps";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import { NumberField } from "../../ui/NumberField";
import { Line, Section } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { lineField, useInks } from "../../ui/look";
import { Slider } from "../../ui/opened";

type Expression = Schemas["ExpressionOut"];
const MOST = 150;
/** All that a face is posed by counts, whatever is keyed else. */
const CHANNELS: Schemas["LibraryPoseIn"]["kinds"] = ["place", "turn", "scale", "extra"];

/** Poses of the face, mixed: how much of each the face shows at the playhead, and how much it shall. */
export function Expressions({ member }: { member: Member }) {
  const ink = useInks();
  const frame = useRested(
    useDesk((s) => s.frame),
    120,
  );
  const [others, setOthers] = useState(false);
  const found = useLookUp({
    what: "expressions",
    of: [member.id, frame, others],
    ask: (take_id) =>
      ask(
        http.GET("/api/takes/{take_id}/expressions", {
          params: { path: { take_id }, query: { casting: member.id, frame, others } },
        }),
      ),
  });
  const all = found.data ?? [];
  return (
    <>
      <Section title="Expressions" hint={`of ${member.name} at ${frame}`}>
        {found.isError && <Box sx={{ color: ink.red }}>{found.error.message}</Box>}
        {found.data?.length === 0 && (
          <Box sx={{ color: ink.faint }}>
            None yet: pose the face, and store it below. They are mixed here by shares.
          </Box>
        )}
        {all.map((one) => (
          <One key={`${one.id} ${frame} ${Math.round(one.share * 1000)}`} one={one} all={all} frame={frame} />
        ))}
        <Line>
          <SmallButton
            disabled={!canChange() || !all.some((one) => one.share > 0.005)}
            onClick={() => void commitNumber(mixture(all, frame), "rest", 0)}
            title="What these expressions move goes back to rest; all else of the face stays"
          >
            Face at rest
          </SmallButton>
          <Tick label="Those of others too" on={others} onChange={setOthers} />
        </Line>
      </Section>
      <Keep member={member} frame={frame} />
    </>
  );
}

/** The edit by which one of the expressions has another share; without one all go to nothing. */
function mixture(all: Expression[], frame: number, of?: Expression, percent = 0): AnyEdit {
  const { keying, shape } = desk();
  const mixed = of
    ? [{ pose: of.id, share: percent / 100, was: Math.min(Math.round(of.share * 1e4) / 1e4, MOST / 100) }]
    : all.map((one) => ({ pose: one.id, share: 0, was: null }));
  return { kind: "express", frame, mixed, keying, shape };
}

function One({ one, all, frame }: { one: Expression; all: Expression[]; frame: number }) {
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const [value, setValue] = useState(Math.round(one.share * 100));
  const done = (percent: number) => {
    const to = Math.min(Math.max(percent, 0), MOST);
    setValue(to);
    void commitNumber(mixture(all, frame, one, to), `expression ${one.id}`, 100);
  };
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "92px 1fr 46px 14px", gap: 0.75, alignItems: "center" }}>
      <Box
        component="span"
        title={`${one.name}, from ${one.character}`}
        sx={{ overflow: "hidden", textOverflow: "ellipsis" }}
      >
        {one.name}
      </Box>
      <Box sx={{ px: 1 }}>
        <Slider
          size="small"
          aria-label={one.name}
          disabled={!editable}
          min={0}
          max={MOST}
          value={value}
          onChange={(_, v) => {
            setValue(v as number);
            tryEdit(mixture(all, frame, one, v as number));
          }}
          onChangeCommitted={(_, v) => done(v as number)}
          onKeyDown={(e) => {
            if (e.key !== "Escape") return;
            setValue(Math.round(one.share * 100));
            leaveTry();
          }}
          sx={{
            color: ink.blue,
            "& .MuiSlider-rail": { bgcolor: ink.line, opacity: 1 },
            "& .MuiSlider-track": { border: 0 },
          }}
        />
      </Box>
      <NumberField
        label={`${one.name} in percent`}
        value={value}
        digits={0}
        step={0}
        disabled={!editable}
        onType={(v, by) => done(by ? value + v : v)}
      />
      <Box component="span" sx={{ color: ink.faint, fontSize: 12 }}>
        %
      </Box>
    </Box>
  );
}

/** The face as it stands, stored as an expression. */
function Keep({ member, frame }: { member: Member; frame: number }) {
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const [name, setName] = useState("");
  async function keep() {
    const { takeId, shot } = desk();
    const controls = member.rig.controls.filter((c) => c.part === "face").map((c) => c.name);
    const kinds = CHANNELS;
    const body = { name: name.trim(), take: takeId, casting: member.id, frame, controls, kinds, with_master: false };
    const path = { params: { path: { production_id: shot!.production_id } } };
    try {
      const made = await ask(http.POST("/api/productions/{production_id}/poses", { ...path, body }));
      const picture = pictureAt(frame, { width: 96, height: 96, sheet: ink.sheet, view: "quarter", of: [member] });
      const blob = picture && (await new Promise<Blob | null>((all) => picture.toBlob(all, "image/png")));
      if (blob) await send("PUT", `/api/poses/${made.id}/picture`, blob).catch(() => undefined);
      say(`${made.name} is stored: it lies in the library with all poses of the production.`);
      setName("");
      await queries.invalidateQueries({ queryKey: ["expressions"] });
      await queries.invalidateQueries({ queryKey: ["poses"] });
    } catch (error) {
      say((error as Error).message, true);
    }
  }
  return (
    <Section title="Store this face" hint="as an expression">
      <Line>
        <input
          aria-label="Name of the expression"
          placeholder="Name, such as Startled"
          value={name}
          maxLength={100}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
          style={{ flex: 1, minWidth: 0, ...lineField(ink) }}
        />
        <SmallButton disabled={!name.trim() || !editable} onClick={() => void keep()}>
          Store
        </SmallButton>
      </Line>
    </Section>
  );
}
