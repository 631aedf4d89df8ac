import Box from "@mui/material/Box";
import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router-dom";
import { ask, http, rememberSession } from "../api/client";
import { SmallButton } from "../ui/SmallButton";
import { useInks, useLook } from "../ui/look";
import { useSession } from "./session";

/** The bar of the pages outside the desk. */
export function TopBar({ children }: { children?: ReactNode }) {
  const ink = useInks();
  const look = useLook();
  const session = useSession();
  const queries = useQueryClient();
  const go = useNavigate();

  async function leave() {
    const session = await ask(http.DELETE("/api/session"));
    rememberSession(session);
    // What was asked as somebody goes; the session itself stays in place, since the page is watching it.
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
    queries.setQueryData(["session"], session);
    go("/");
  }
  return (
    <Box
      component="header"
      sx={{
        height: 40,
        flex: "none",
        display: "flex",
        alignItems: "center",
        gap: 1,
        px: 1.5,
        bgcolor: ink.bar,
        color: ink.onBar,
        "& button": { color: ink.ink },
      }}
    >
      <Box
        component={Link}
        to="/"
        sx={{
          color: "inherit",
          display: "flex",
          alignItems: "center",
          gap: 1,
          textDecoration: "none",
          fontWeight: 700,
        }}
      >
        <img src="/mark.svg" width={22} height={22} alt="" />
        Hame
      </Box>
      {children}
      <Box sx={{ flex: 1 }} />
      <span style={{ opacity: 0.85 }}>{session.data?.person?.name}</span>
      <SmallButton onClick={() => look.setDesk(look.desk === "day" ? "night" : "day")}>
        {look.desk === "day" ? "Night desk" : "Day desk"}
      </SmallButton>
      <SmallButton onClick={() => void leave()}>Sign out</SmallButton>
    </Box>
  );
}
