import Box from "@mui/material/Box";
import { CAMERA, cameraOf } from "../../desk/camera";
import { addJoint, changePath, dropPath, keysOf, labelOf, togglePaths } from "../../desk/paths";
import { useGap } from "../../desk/gaps";
import { go } from "../../desk/playing";
import { leaveTry, tryEdit } from "../../desk/posing";
import { select } from "../../desk/selecting";
import { commit, here } from "../../desk/steps";
import { makerOf } from "../../desk/paths";
import { openStrip, setPathLooks, showPaths } from "../../desk/viewing";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import { WAY_OF, type Way, wayLabel } from "../../model/ways";
import { Acts } from "../../ui/Acts";
import { Choice } from "../../ui/Choice";
import { useInks } from "../../ui/look";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";

/** Which paths are drawn and how, and what is done at the mark that is chosen. */
export function PathsPanel({ member }: { member: Member }) {
  const ink = useInks();
  const paths = useDesk((s) => s.paths);
  const looks = useDesk((s) => s.pathLooks);
  const shown = useDesk((s) => s.pathsShown);
  const selection = useDesk((s) => s.selection);
  const editable = useDesk((s) => canChange(s));
  const cast = useDesk((s) => s.cast);
  const camera = useDesk((s) => cameraOf(s) !== undefined);
  const tones = [ink.blue, ink.red, ink.axisX, ink.axisY, ink.axisZ, ink.left, ink.right, ink.ink];
  const withins = (of: Member | undefined) => [
    { value: "", label: "in the world" },
    ...["chest", "hips", "head"]
      .filter((name) => of?.controls.has(name))
      .map((name) => ({ value: name, label: `seen from the ${name}` })),
    ...(camera ? [{ value: CAMERA, label: "in the camera's picture" }] : []),
  ];
  return (
    <>
      <Section title="Paths" hint="kept with the take">
        <Line>
          <SmallButton disabled={!editable || !selection.length} onClick={() => void togglePaths()} title="A">
            Path of the selection
          </SmallButton>
          <Acts
            label="Of a joint"
            disabled={!editable}
            acts={member.rig.joints.map((name) => ({ label: name, act: () => void addJoint(member, name) }))}
          />
          <SmallButton on={shown} onClick={() => showPaths(!shown)}>
            {shown ? "Shown" : "Hidden"}
          </SmallButton>
        </Line>
        {paths.length === 0 && (
          <Said>Select a hand, the hips, the head: their way through the shot is drawn with A.</Said>
        )}
        <Box role="list" aria-label="Paths" sx={{ display: "grid", gap: 0.5 }}>
          {paths.map((path, n) => {
            const of = cast.find((m) => m.id === path.casting);
            return (
              <Box key={`${path.casting} ${path.name} ${path.within} ${n}`} role="listitem">
                <Line>
                  <Box
                    component="button"
                    aria-label={`Next tone for ${labelOf(path)}`}
                    title="Another tone"
                    disabled={!editable}
                    onClick={() => void changePath(n, { tone: (path.tone + 1) % tones.length })}
                    sx={{ width: 22, height: 22, border: 0, p: 0, bgcolor: "transparent", cursor: "pointer" }}
                  >
                    <svg width="22" height="22" aria-hidden>
                      <path d="M2 17C7 2 15 2 20 9" fill="none" stroke={tones[path.tone]} strokeWidth="2.5" />
                      <circle cx="10" cy="6.5" r="3" fill={tones[path.tone]} />
                    </svg>
                  </Box>
                  <SmallButton
                    sx={{ flex: 1, minWidth: 0, justifyContent: "flex-start", overflow: "hidden" }}
                    onClick={() => select([path.name], "set", path.casting)}
                  >
                    {labelOf(path)}
                  </SmallButton>
                  <SmallButton
                    on={path.shown}
                    disabled={!editable}
                    onClick={() => void changePath(n, { shown: !path.shown })}
                  >
                    {path.shown ? "On" : "Off"}
                  </SmallButton>
                  <SmallButton
                    disabled={!editable}
                    aria-label={`Take away the path of ${labelOf(path)}`}
                    onClick={() => void dropPath(n)}
                  >
                    ×
                  </SmallButton>
                </Line>
                {path.lacks ? (
                  <Box sx={{ color: ink.red, fontSize: 12 }}>Not drawn: {path.lacks}.</Box>
                ) : (
                  <Choice
                    label={`Seen of ${labelOf(path)}`}
                    value={path.within}
                    options={withins(of).filter((o) => o.value !== path.name)}
                    disabled={!editable}
                    onChange={(within) => void changePath(n, { within })}
                  />
                )}
              </Box>
            );
          })}
        </Box>
        <Tick label="Darker where it is faster" on={looks.speed} onChange={(speed) => setPathLooks({ speed })} />
      </Section>
      <AtMark />
      <Breakdown member={member} />
    </>
  );
}

/** What is done at the chosen mark of a path. */
function AtMark() {
  const mark = useDesk((s) => s.mark);
  const path = useDesk((s) => (s.mark ? s.paths[s.mark.path] : undefined));
  const cast = useDesk((s) => s.cast);
  const member = cast.find((m) => m.id === path?.casting);
  if (!mark || !path || !member)
    return (
      <Section title="Mark">
        <Said>Click a mark of a path on the stage to go there; drag it to change the pose.</Said>
      </Section>
    );
  const keys = [...keysOf(member, path)].sort((a, b) => a - b);
  const before = keys.filter((f) => f <= mark.frame).pop();
  const after = keys.find((f) => f > mark.frame);
  const limb = member.rig.limbs.find((l) => l.ik === path.name || l.fk.includes(path.name));
  const controls = limb ? [limb.ik, ...limb.fk] : [path.name];
  const place = { ...here(), casting: member.id };
  const wider = (degree: number) =>
    void commit(
      { kind: "exaggerate", frame: mark.frame, degree, against: "neighbours", controls, keying: desk().keying },
      place,
    );
  const later = (frames: number) => {
    const chain = [{ controls, frames, amplitude: 1 }];
    void commit({ kind: "delay event", chain, about: mark.frame, first: null, last: null, together: false }, place);
  };
  const ease = (way: Way) => {
    if (before !== undefined && after !== undefined)
      void commit({ kind: "way", way, strength: 0.5, gaps: [[before, after]], controls, keys: null });
  };
  return (
    <Section title={`Mark at ${mark.frame}`} hint={labelOf(path)}>
      <Said>Drag it on the stage to change the pose there.</Said>
      {keys.includes(mark.frame) && (
        <Line>
          <SmallButton onClick={() => wider(0.2)} title="Farther from the way its neighbours take; how far is then set">
            Wider
          </SmallButton>
          <SmallButton onClick={() => wider(-0.2)} title="Nearer to the way its neighbours take">
            Narrower
          </SmallButton>
          <SmallButton onClick={() => later(-1)} title="This part alone comes there a frame earlier">
            A frame earlier
          </SmallButton>
          <SmallButton onClick={() => later(1)} title="This part alone comes there a frame later">
            A frame later
          </SmallButton>
        </Line>
      )}
      <Line>
        <SmallButton onClick={() => go(mark.frame)}>Go to it</SmallButton>
        <SmallButton
          onClick={() => {
            select([makerOf(member, path)], "set", member.id);
            openStrip("graph");
            go(mark.frame);
          }}
        >
          Open its curve
        </SmallButton>
        <Choice
          label="Way of its gap"
          value={"" as string}
          options={[
            {
              value: "",
              label: before === undefined || after === undefined ? "No gap here" : `Ease ${before} to ${after}`,
            },
            ...WAY_OF.slice(1).map((value) => ({ value: value as string, label: wayLabel(value) })),
          ]}
          onChange={(way) => way && ease(way as Way)}
        />
      </Line>
    </Section>
  );
}

/** A breakdown on the arc between the poses about the playhead, and the arc smoothed. */
function Breakdown({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const selection = useDesk((s) => s.selection);
  const gap = useGap(member);
  const one = selection.length === 1 ? selection[0] : "";
  const lay = (bulge: number): AnyEdit => ({
    kind: "arc",
    frame: desk().frame,
    control: one,
    share: 0.5,
    bulge,
    controls: one ? [one] : null,
    keying: desk().keying,
    shape: desk().shape,
  });
  const name = one ? (member.controls.get(one)?.label ?? one) : "the whole pose, hands on their arcs";
  return (
    <Section title={`Breakdown on the arc at ${frame}`} hint={name}>
      <Line>
        {[
          [0, "On the arc"],
          [0.15, "Opened"],
          [0.35, "Opened wide"],
        ].map(([bulge, label]) => (
          <SmallButton
            key={label}
            onPointerEnter={() => tryEdit(lay(bulge as number))}
            onPointerLeave={leaveTry}
            onClick={() => void commit(lay(bulge as number))}
            title="While the pointer is here, the stage shows how it would be"
          >
            {label}
          </SmallButton>
        ))}
      </Line>
      <Line>
        <SmallButton
          disabled={!one || !gap}
          title="The least change of keys that rounds the path; key poses stay"
          onClick={() => {
            const { shot } = desk();
            void commit({
              kind: "smooth arc",
              control: one,
              first: Math.max(frame - 12, shot?.start ?? 1),
              last: Math.min(frame + 12, shot?.end ?? 1),
            });
          }}
        >
          Smooth the arc here
        </SmallButton>
        <Word>{one ? "12 frames to both sides" : "select one part"}</Word>
      </Line>
    </Section>
  );
}
