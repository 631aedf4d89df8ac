// What somebody goes by, as it is called and in which unit.
import { FACTS } from "../../api/facts.gen";

export const PACE_HIGH = 34; // pixels of the row of the pace

export const quantityOf = (name: string) =>
  (FACTS.quantities as Record<string, { label: string; unit: string }>)[name] ?? { label: name, unit: "" };
