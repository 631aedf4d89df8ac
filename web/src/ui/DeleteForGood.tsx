import Alert from "@mui/material/Alert";
import { useMutation, useQuery } from "@tanstack/react-query";
import { ask, http } from "../api/client";
import { Confirm } from "./Confirm";

export type Removable = { kind: "take" | "shot" | "character" | "production"; id: number; name: string };

const PATHS = {
  take: (id: number) => ["/api/takes/{take_id}/removal", { take_id: id }],
  shot: (id: number) => ["/api/shots/{shot_id}/removal", { shot_id: id }],
  character: (id: number) => ["/api/characters/{character_id}/removal", { character_id: id }],
  production: (id: number) => ["/api/productions/{production_id}/removal", { production_id: id }],
} as const;

/** The place of what is deleted; the four paths differ by the name of their number only. */
function at({ kind, id }: Removable) {
  const [path, numbers] = PATHS[kind](id);
  return [
    path as "/api/takes/{take_id}/removal",
    { params: { path: numbers as unknown as { take_id: number } } },
  ] as const;
}

/** Says what goes along, and deletes it for good when the person still wants it. */
export function DeleteForGood({ what, onDone }: { what: Removable; onDone: (deleted: boolean) => void }) {
  const going = useQuery({
    queryKey: ["removal", what.kind, what.id],
    queryFn: () => ask(http.GET(...at(what))),
    staleTime: 0,
  });
  const remove = useMutation({ mutationFn: () => ask(http.DELETE(...at(what))), onSuccess: () => onDone(true) });
  return (
    <Confirm
      title={`Delete ${what.name} for good?`}
      yes="Delete for good"
      no="Keep it"
      grave
      busy={!going.data || remove.isPending}
      onAnswer={(yes) => (yes ? remove.mutate() : onDone(false))}
    >
      {going.isPending && "Looking at what goes along…"}
      {going.data && <>This cannot be undone. With it go: {going.data.words.join(", ") || "nothing else"}.</>}
      {(going.error ?? remove.error) && <Alert severity="error">{(going.error ?? remove.error)?.message}</Alert>}
    </Confirm>
  );
}
