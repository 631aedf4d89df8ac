// How the desk looks to this person: kept in the browser.
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { inksOf, type Desk, type Inks } from "../theme";

interface Look {
  desk: Desk;
  setDesk: (desk: Desk) => void;
}

export const useLook = create<Look>()(
  persist((set) => ({ desk: "day" as Desk, setDesk: (desk) => set({ desk }) }), { name: "hame-look" }),
);

export const useInks = (): Inks => inksOf(useLook((s) => s.desk));
