import type { Member } from "../../desk/store";
import { LivingHold } from "./LivingHold";
import { Shakes } from "./Shakes";
import { Springs } from "./Springs";

/** What is laid over keys by rule, so that a figure lives while it stands, and shakes where it is struck. */
export function Life({ member }: { member: Member }) {
  return (
    <>
      <LivingHold member={member} />
      <Springs member={member} />
      <Shakes member={member} />
    </>
  );
}
