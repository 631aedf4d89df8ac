// What is drawn on the stage besides the figures. A new thing is a class like this, and a line in the scene's list.
import type * as THREE from "three";
import type { DeskState, Member } from "../../desk/store";
import type { ViewName } from "../../model/types";
import type { Inks } from "../../theme";
import type { Ray } from "./handle";
import type { Lines } from "./lines";

/** The picture that is drawn now. */
export interface Moment {
  s: DeskState;
  /** Whom the tools act on. */
  member: Member | undefined;
  on: Ray;
  view: ViewName;
  /** Whether anything but the skins is to be seen, and whether controls are: not while it plays and is judged. */
  marked: boolean;
  posing: boolean;
}

export interface Drawn {
  readonly objects: THREE.Object3D[];
  /** Lines whose thickness follows the size of the picture. */
  readonly lines?: Lines;
  /** What of the store changes it, besides poses. */
  readonly needs: readonly (keyof DeskState)[];
  setInks(inks: Inks): void;
  write(now: Moment): void;
  dispose(): void;
}
