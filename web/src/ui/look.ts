// How the desk looks to this person: kept in the browser.
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { inksOf, type Desk, type Inks } from "../theme";

interface Look {
  desk: Desk;
  setDesk: (desk: Desk) => void;
  /** Without a graphics card: edges are drawn smooth once the picture rests, which takes a while. */
  smooth: boolean;
  setSmooth: (smooth: boolean) => void;
}

export const useLook = create<Look>()(
  persist(
    (set) => ({
      desk: "day" as Desk,
      setDesk: (desk) => set({ desk }),
      smooth: true,
      setSmooth: (smooth) => set({ smooth }),
    }),
    { name: "hame-look" },
  ),
);

export const useInks = (): Inks => inksOf(useLook((s) => s.desk));
