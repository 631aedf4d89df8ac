// Which part of a panel is open: as it was left, also where the panel was laid out anew meanwhile.
import { useState } from "react";

const left = new Map<string, string>();

export function useTab<T extends string>(panel: string, first: T): [T, (tab: T) => void] {
  const [tab, setTab] = useState<T>((left.get(panel) as T | undefined) ?? first);
  return [
    tab,
    (now: T) => {
      left.set(panel, now);
      setTab(now);
    },
  ];
}
