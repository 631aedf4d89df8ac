import type { Schemas } from "../api/client";

export type Rig = Schemas["RigOut"];
export type Control = Schemas["ControlOut"];
export type Channel = Schemas["ChannelOut"];
export type Shot = Schemas["ShotOut"];
export type StepDone = Schemas["StepDone"];
export type AnyEdit = Schemas["EditIn"]["edit"];
export type KeyRow = number[];

export type Axes = "world" | "parent" | "own" | "view";
export type Sides = "one" | "mirrored" | "opposite";
export type Keying = "off" | "changed" | "control" | "whole";
export type Kind = Channel["kind"];
export type Tool = "move" | "turn";
export type SkinLook = "solid" | "clear" | "only";
export type ViewName = "front" | "side" | "top" | "back" | "quarter";

export type Label = Schemas["LabelOut"];
export type Cycle = Schemas["CycleOut"];
export type SelectionSet = Schemas["SetOut"];
export type Shape = "stepped" | "straight" | "smooth";
export type Mirrored = Schemas["Mirrored"];

export interface Clip {
  curves: Record<string, KeyRow[]>;
  pending: Record<string, Record<string, number>>;
  labels: Record<string, Label>;
  cycle: Cycle | null;
}
