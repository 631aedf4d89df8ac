import Box from "@mui/material/Box";
import { useEffect } from "react";
import { dragging } from "../../desk/dragging";
import { useHistory } from "../../desk/looking";
import { goTo } from "../../desk/steps";
import { canChange, useDesk } from "../../desk/store";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

const time = (iso: string) =>
  new Date(iso).toLocaleString([], { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });

/** Every step ever made in this take. Any of them can be gone back to, also those that later steps set aside. */
export function History({ onClose }: { onClose: () => void }) {
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const steps = useHistory();
  useEffect(() => {
    const leave = (event: KeyboardEvent) => event.key === "Escape" && !dragging() && onClose();
    window.addEventListener("keydown", leave);
    return () => window.removeEventListener("keydown", leave);
  }, [onClose]);
  return (
    // In place of the panels beside the stage, not over it: who walks through the steps watches the figure.
    <Box component="section" aria-label="History" sx={{ height: "100%", display: "flex", flexDirection: "column" }}>
      <Box sx={{ p: 1.5, display: "flex", alignItems: "center" }}>
        <Box component="h2" sx={{ fontSize: 16, m: 0, flex: 1 }}>
          History
        </Box>
        <SmallButton onClick={onClose}>Close</SmallButton>
      </Box>
      <Box sx={{ px: 1.5, pb: 1, color: ink.faint, fontSize: 12 }}>
        Click a step to go to the state after it. Nothing is lost by going back.
      </Box>
      <Box
        component="ol"
        aria-label="Steps"
        sx={{ listStyle: "none", m: 0, p: 0, overflowY: "auto", flex: 1, minHeight: 0 }}
      >
        {steps.data?.map((step) => (
          <Box component="li" key={step.id}>
            <Box
              component="button"
              disabled={!editable || step.head}
              onClick={() => void goTo(step.id)}
              aria-current={step.head ? "step" : undefined}
              sx={{
                width: "100%",
                textAlign: "left",
                border: 0,
                borderLeft: 4,
                borderColor: step.head ? ink.blue : "transparent",
                bgcolor: step.head ? ink.sheet : "transparent",
                font: "inherit",
                px: 1.25,
                py: 0.5,
                cursor: "pointer",
                color: step.state === "done" ? ink.ink : ink.faint,
                "&:hover": { bgcolor: ink.sheet },
              }}
            >
              <div>{step.label}</div>
              <Box sx={{ fontSize: 11, color: ink.faint }}>
                {[step.by, time(step.at), { done: "", undone: "undone", aside: "set aside" }[step.state]]
                  .filter(Boolean)
                  .join(" · ")}
              </Box>
            </Box>
          </Box>
        ))}
        {steps.data?.length === 0 && (
          <Box component="li" sx={{ p: 1.5, color: ink.faint }}>
            No steps yet: each thing you do to the motion stands here.
          </Box>
        )}
        {!!steps.data?.length && (
          <Box component="li">
            <Box
              component="button"
              disabled={!editable}
              onClick={() => void goTo(null)}
              sx={{
                width: "100%",
                textAlign: "left",
                border: 0,
                background: "none",
                font: "inherit",
                px: 1.75,
                py: 0.75,
                cursor: "pointer",
                color: ink.faint,
                "&:hover": { bgcolor: ink.sheet },
              }}
            >
              The beginning
            </Box>
          </Box>
        )}
      </Box>
    </Box>
  );
}
