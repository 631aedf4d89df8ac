import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import TextField from "@mui/material/TextField";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, http, type Schemas } from "../api/client";
import { Choice } from "../ui/Choice";
import { useInks } from "../ui/look";

type Role = Schemas["MemberOut"]["role"];
const ROLES: { value: Role; label: string }[] = [
  { value: "guest", label: "Guest: looks" },
  { value: "animator", label: "Animator: changes" },
  { value: "lead", label: "Lead: also invites" },
];

/** Who works on a production, and as what. */
export function Members({ production, onClose }: { production: Schemas["ProductionOut"]; onClose: () => void }) {
  const ink = useInks();
  const queries = useQueryClient();
  const key = ["members", production.id];
  const at = { params: { path: { production_id: production.id } } };
  const members = useQuery({
    queryKey: key,
    queryFn: () => ask(http.GET("/api/productions/{production_id}/members", at)),
  });
  const [username, setUsername] = useState("");
  const [role, setRole] = useState<Role>("animator");
  const took = (list: Schemas["MemberOut"][]) => queries.setQueryData(key, list);
  const put = useMutation({
    mutationFn: (body: { username: string; role: Role }) =>
      ask(http.PUT("/api/productions/{production_id}/members", { ...at, body })),
    onSuccess: (l) => {
      took(l);
      setUsername("");
    },
  });
  const drop = useMutation({
    mutationFn: (name: string) =>
      ask(
        http.DELETE("/api/productions/{production_id}/members/{username}", {
          params: { path: { production_id: production.id, username: name } },
        }),
      ),
    onSuccess: took,
  });
  const lead = production.role === "lead";
  return (
    <Dialog open onClose={onClose}>
      <Box sx={{ p: 2.5, width: 430, display: "grid", gap: 1.5 }}>
        <Box component="h2" sx={{ m: 0, fontSize: 17 }}>
          People of {production.name}
        </Box>
        {members.data?.map((m) => (
          <Box key={m.username} sx={{ display: "flex", alignItems: "center", gap: 1 }}>
            <Box sx={{ flex: 1 }}>
              {m.name}{" "}
              <Box component="span" sx={{ color: ink.faint }}>
                {m.username}
                {m.invited ? ", asked in" : ""}
              </Box>
            </Box>
            <Choice
              label={`Role of ${m.name || m.username}`}
              value={m.role}
              options={ROLES}
              disabled={!lead}
              onChange={(r) => put.mutate({ username: m.username, role: r })}
            />
            {lead && <Button onClick={() => drop.mutate(m.username)}>{m.invited ? "Take back" : "Remove"}</Button>}
          </Box>
        ))}
        {lead ? (
          <Box
            component="form"
            sx={{ display: "flex", gap: 1, alignItems: "center", borderTop: 1, borderColor: "divider", pt: 1.5 }}
            onSubmit={(e) => {
              e.preventDefault();
              if (username) put.mutate({ username, role });
            }}
          >
            <TextField
              label="Account name"
              value={username}
              onChange={(e) => setUsername(e.target.value)}
              sx={{ flex: 1 }}
            />
            <Choice label="Role" value={role} options={ROLES} onChange={setRole} />
            <Button type="submit" variant="contained">
              Ask in
            </Button>
          </Box>
        ) : (
          <Box sx={{ color: ink.faint, fontSize: 12 }}>Only a lead adds people or changes roles.</Box>
        )}
        {lead && (
          <Box sx={{ color: ink.faint, fontSize: 12 }}>
            Whoever has the account finds your invitation on the page of shots. Whether there is such an account is not
            told here.
          </Box>
        )}
        {(put.isError || drop.isError) && <Alert severity="error">{(put.error ?? drop.error)?.message}</Alert>}
        <Button onClick={onClose} sx={{ justifySelf: "end" }}>
          Close
        </Button>
      </Box>
    </Dialog>
  );
}
