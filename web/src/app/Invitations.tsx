import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router-dom";
import { ask, http } from "../api/client";

/** Productions that the person is asked into: to come in, or to stay out. */
export function Invitations() {
  const queries = useQueryClient();
  const go = useNavigate();
  const found = useQuery({ queryKey: ["invitations"], queryFn: () => ask(http.GET("/api/invitations")) });
  const again = () => {
    void queries.invalidateQueries({ queryKey: ["invitations"] });
    void queries.invalidateQueries({ queryKey: ["productions"] });
  };
  const come = useMutation({
    mutationFn: (id: number) =>
      ask(http.POST("/api/invitations/{invitation_id}", { params: { path: { invitation_id: id } } })),
    onSuccess: (production) => {
      again();
      go(`/productions/${production.id}`);
    },
  });
  const stay = useMutation({
    mutationFn: (id: number) =>
      ask(http.DELETE("/api/invitations/{invitation_id}", { params: { path: { invitation_id: id } } })),
    onSuccess: again,
  });
  return found.data?.map((asked) => (
    <Alert
      key={asked.id}
      severity="info"
      sx={{ mb: 1 }}
      action={
        <>
          <Button onClick={() => come.mutate(asked.id)}>Come in</Button>
          <Button onClick={() => stay.mutate(asked.id)}>Stay out</Button>
        </>
      }
    >
      {asked.by || "A lead"} asks you into {asked.production}, as{" "}
      {asked.role === "animator" ? "an animator" : `a ${asked.role}`}.
    </Alert>
  ));
}
