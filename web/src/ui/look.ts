// How the desk looks to this person: kept in the browser.
import type { CSSProperties } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { inksOf, type Desk, type Inks } from "../theme";

/** How the stage is drawn: as the machine lets it, always whole, or with what the hand needs until it rests. */
export type Drawing = "itself" | "whole" | "quick";

interface Look {
  desk: Desk;
  setDesk: (desk: Desk) => void;
  /** Without a graphics card: edges are drawn smooth once the picture rests, which takes a while. */
  smooth: boolean;
  setSmooth: (smooth: boolean) => void;
  drawing: Drawing;
  setDrawing: (drawing: Drawing) => void;
  shadow: boolean;
  setShadow: (shadow: boolean) => void;
  /** Milliseconds that pass at least between two answers that follow a hand. */
  pace: number;
  setPace: (pace: number) => void;
  /** Drawn sheets face to the right, and not as the side view does. */
  sheetRight: boolean;
  setSheetRight: (right: boolean) => void;
}

export const useLook = create<Look>()(
  persist(
    (set) => ({
      desk: "day" as Desk,
      setDesk: (desk) => set({ desk }),
      smooth: true,
      setSmooth: (smooth) => set({ smooth }),
      drawing: "itself",
      setDrawing: (drawing) => set({ drawing }),
      shadow: true,
      setShadow: (shadow) => set({ shadow }),
      pace: 0,
      setPace: (pace) => set({ pace }),
      sheetRight: false,
      setSheetRight: (sheetRight) => set({ sheetRight }),
    }),
    { name: "hame-look" },
  ),
);

export const useInks = (): Inks => inksOf(useLook((s) => s.desk));

/** The ink of a side: L, R, or neither. */
export const sideInk = (ink: Inks, side: string | null | undefined): string =>
  side === "L" ? ink.left : side === "R" ? ink.right : ink.ink;

/** How a field for a line of text is drawn. */
export const lineField = (ink: Inks): CSSProperties => ({
  height: 26,
  boxSizing: "border-box",
  font: "inherit",
  color: ink.ink,
  background: ink.sheet,
  border: `1px solid ${ink.edge}`,
  borderRadius: 4,
  padding: "0 6px",
});
