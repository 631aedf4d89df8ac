import { AlertList } from "../../desk/widgets/AlertList";
import { type Member, useDesk } from "../../desk/store";

/** Faults of contact of all who play. */
export function Alerts(_: { member: Member }) {
  const alerts = useDesk((s) => s.faults.contacts ?? null);
  return (
    <AlertList
      alerts={alerts}
      of="contact"
      none="Nothing slides, sinks, floats, reaches too far, snaps, or bends the wrong way."
    />
  );
}
