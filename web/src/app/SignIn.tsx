import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { ask, http, rememberSession, type Schemas } from "../api/client";
import { useInks } from "../ui/look";

export function SignIn({ session }: { session: Schemas["Session"] }) {
  const queries = useQueryClient();
  const ink = useInks();
  const [problem, setProblem] = useState("");
  const form = useForm({ defaultValues: { username: "", password: "" } });

  async function enter(call: Promise<Schemas["Session"]>) {
    setProblem("");
    try {
      const entered = await call;
      rememberSession(entered);
      queries.setQueryData(["session"], entered);
    } catch (error) {
      setProblem((error as Error).message);
    }
  }

  return (
    <Box sx={{ height: "100%", display: "grid", gridTemplateColumns: { xs: "1fr", md: "1.15fr 1fr" } }}>
      <Box
        sx={{ bgcolor: ink.bar, color: ink.onBar, display: { xs: "none", md: "grid" }, alignContent: "center", p: 8 }}
      >
        <Arc />
        <Box component="p" sx={{ fontSize: 22, lineHeight: 1.35, maxWidth: 420, mt: 4 }}>
          Pose the figure. Find the key poses. Give them time, weight and an arc.
        </Box>
        <Box component="p" sx={{ opacity: 0.8, maxWidth: 420 }}>
          Hame is a desk for character animators: control rigs in IK and FK, keys and columns, and every step stored as
          it is made.
        </Box>
      </Box>
      <Box
        sx={{
          display: "grid",
          placeContent: "center",
          p: 4,
          gap: 2,
          width: "100%",
          gridTemplateColumns: "minmax(0, 320px)",
        }}
      >
        <Box component="h1" sx={{ m: 0, fontSize: 34, letterSpacing: "-0.01em" }}>
          Hame
        </Box>
        <Box
          component="form"
          sx={{ display: "grid", gap: 1.5 }}
          onSubmit={form.handleSubmit((given) => enter(ask(http.POST("/api/session", { body: given }))))}
        >
          <TextField
            label="Account name"
            autoComplete="username"
            autoFocus
            {...form.register("username", { required: true })}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="current-password"
            {...form.register("password", { required: true })}
          />
          <Button type="submit" variant="contained" sx={{ height: 36 }} disabled={form.formState.isSubmitting}>
            Sign in
          </Button>
        </Box>
        {problem && <Alert severity="error">{problem}</Alert>}
        {session.demo.length > 0 && (
          <Box sx={{ borderTop: 1, borderColor: "divider", pt: 2, display: "grid", gap: 1 }}>
            <span>This is a demo. Come in without a password as</span>
            {session.demo.map((account) => (
              <Button
                key={account.username}
                variant="outlined"
                sx={{ justifyContent: "flex-start", height: 36 }}
                onClick={() => enter(ask(http.POST("/api/session/demo", { body: { username: account.username } })))}
              >
                {account.label}
              </Button>
            ))}
          </Box>
        )}
      </Box>
    </Box>
  );
}

/** A leap as an animator spaces it: marks close at the ends and at the top, wide where it is fast. */
function Arc() {
  const ink = useInks();
  const marks = Array.from({ length: 13 }, (_, n) => {
    const t = n / 12;
    return { x: 20 + 380 * t, y: 150 - 4 * 120 * t * (1 - t), key: n % 6 === 0 };
  });
  return (
    <svg viewBox="0 0 420 180" width="100%" style={{ maxWidth: 420 }} aria-hidden>
      <path
        d="M20 150 Q210 -90 400 150"
        fill="none"
        stroke={ink.onBar}
        strokeOpacity="0.35"
        strokeWidth="2"
        strokeDasharray="2 6"
        strokeLinecap="round"
      />
      {marks.map((m) => (
        <circle
          key={m.x}
          cx={m.x}
          cy={m.y}
          r={m.key ? 8 : 3.5}
          fill={m.key ? "none" : ink.onBar}
          stroke={ink.onBar}
          strokeWidth={m.key ? 2.5 : 0}
        />
      ))}
      <path d="M6 160 H414" stroke={ink.onBar} strokeOpacity="0.5" strokeWidth="2" />
    </svg>
  );
}
