import type { Schemas } from "../api/client";
import type { operations } from "../api/schema.gen";

export type Rig = Schemas["RigOut"];
export type Control = Schemas["ControlOut"];
export type Channel = Schemas["ChannelOut"];
export type Shot = Schemas["ShotOut"];
export type StepDone = Schemas["StepDone"];
type GivenEdit = Schemas["EditIn"]["edit"];
/** An edit as the desk makes it; which layer it is made in is told as it is sent. */
type Loose<E> = E extends { layer: number } ? Omit<E, "layer"> & { layer?: number } : never;
export type AnyEdit = Loose<GivenEdit>;

/** Choices that edits know. */
type Edited<K extends GivenEdit["kind"]> = Required<Extract<GivenEdit, { kind: K }>>;
export type Axes = Edited<"by hand">["axes"];
export type Sides = Edited<"by hand">["sides"];
export type Keying = Edited<"by hand">["keying"];
export type Shape = Edited<"by hand">["shape"];
export type Kind = Channel["kind"];
/** Choices of the page alone. */
export type Tool = "move" | "turn" | "pull";
export type SkinLook = "solid" | "clear" | "only";
export type ViewName = "front" | "side" | "top" | "back" | "quarter" | "camera";

export type Label = Schemas["LabelOut"];
export type Follow = Schemas["FollowOut"];
export type Cycle = Schemas["CycleSpan"];
export type Plant = Schemas["PlantSpan"];
export type Path = Schemas["PathOut"];
export type Chart = Schemas["ChartOut"];
export type Layer = Schemas["LayerSpan"];
export type Belonging = Schemas["BelongingSpan"];
/** With which others a fault is looked for. */
export type FaultGroup = operations["server_shots_api_faults_faults"]["parameters"]["query"]["group"];
export type Alert = Omit<Schemas["AlertOut"], "mend" | "others"> & {
  mend: AnyEdit | null;
  others: { edit: AnyEdit; says: string }[];
};
export type Found = Schemas["FoundOut"];
export type Limb = Rig["limbs"][number];
export type Chain = Rig["chains"][number];
/** What can be planted by its end. */
export type End = Limb | Chain;
/** How a body stands at a frame. */
export type Balance = Schemas["BalanceOut"];
export type Flight = Schemas["FlightOut"];
export type Happening = Omit<Schemas["HappeningOut"], "answers"> & { answers: AnyEdit[] };
/** A part by which the body can be pulled. */
export type Part = Rig["parts"][number];
/** How firmly a part stays where it is while the body is pulled. */
export type Grade = Schemas["GripIn"]["grade"];
export type SelectionSet = Schemas["SetOut"];
export type Mirroring = Schemas["Mirroring"];

/** Curves by channel; pending poses and labels by frame; spans by track, and which frames show which by them. */
export type Clip = Schemas["ClipOut"];

/** The spans of a track; what lies on it is told by its name. */
export const spansOn = <T>(clip: Clip, track: string) => (clip.tracks[track] ?? []) as unknown as T[];
/** The cycles, in the order of time. */
export const cyclesOf = (clip: Clip) => spansOn<Cycle>(clip, "cycle");
/** The cycle that a frame lies in, its repeats included. */
export const cycleAt = (clip: Clip, frame: number): Cycle | null =>
  cyclesOf(clip).find((cycle) => cycle.start <= frame && frame <= cycle.until) ?? null;
export type Living = Schemas["LivingSpan"];
/** The living holds, in the order of time. */
export const livingsOf = (clip: Clip) => spansOn<Living>(clip, "living");
export type Shake = Schemas["ShakeSpan"];
/** The shakes of a clip with the controls in which they begin. */
export const shakesOf = (clip: Clip) => spansAbout<Shake>(clip, "shake");
export type Gaze = Schemas["GazeSpan"];
/** The gazes of a clip: of a figure that looks (""), and of controls that are aimed. */
export const gazesOf = (clip: Clip): { control: string; span: Gaze }[] => [
  ...spansOn<Gaze>(clip, "gaze").map((span) => ({ control: "", span })),
  ...spansAbout<Gaze>(clip, "gaze"),
];
export type Spring = Schemas["SpringSpan"];
/** The springs of a clip with the controls of the rows that swing. */
export const springsOf = (clip: Clip) => spansAbout<Spring>(clip, "spring");
export type Blink = Schemas["BlinkSpan"];
export const blinksOf = (clip: Clip) => spansOn<Blink>(clip, "blink");
export type Give = Schemas["GiveSpan"];
/** Where a body gives, in the order of time. */
export const givesOf = (clip: Clip) => spansOn<Give>(clip, "give");
export type Knock = Schemas["KnockSpan"];
/** The blows of a clip with the controls on which they land. */
export const knocksOf = (clip: Clip) => spansAbout<Knock>(clip, "knock");
export type CarryThrough = Schemas["CarryThroughSpan"];
export type FootDown = Schemas["FootDownSpan"];
export type Counter = Schemas["CounterSpan"];
/** The spans of a kind that lie on tracks of controls, with these. */
export const spansAbout = <T>(clip: Clip, kind: string): { control: string; span: T }[] =>
  Object.keys(clip.tracks)
    .filter((track) => track.startsWith(`${kind}/`))
    .flatMap((track) => spansOn<T>(clip, track).map((span) => ({ control: track.slice(kind.length + 1), span })));
/** The plants of a limb, by its IK control. */
export const plantsOf = (clip: Clip, control: string) => spansOn<Plant>(clip, `plant/${control}`);
/** What a control belongs to, by spans of frames. */
export const belongingsOf = (clip: Clip, control: string) => spansOn<Belonging>(clip, `belonging/${control}`);

type Up = Schemas["Up"];
/** What goes up the socket of a take; the server fills in what is left out. */
export type Message = {
  [D in Up["do"]]: { do: D } & Partial<Omit<Extract<Up, { do: D }>, "do" | "seq" | "edit">> & { edit?: AnyEdit | null };
}[Up["do"]];
/** What comes down as JSON. */
export type Down = Schemas["Down"];
/** What is said of a pose that came down. */
export type Said = Partial<Schemas["Said"]>;

/** What others do after this is no part of what a step was made on. */
export interface Basis {
  revision: number;
  /** Names of own steps, in their order, that are part of it besides. */
  after: string[];
}
