import Box from "@mui/material/Box";
import LinearProgress from "@mui/material/LinearProgress";
import { askAnew, cancelJob, forgetJob, type Job, unfinished, useJobs } from "../../api/jobs";
import { say } from "../../desk/steps";
import { useInks } from "../../ui/look";
import { SmallButton } from "../../ui/SmallButton";

/** Files that are being made, and those made of late: each can be fetched, also after the page was closed. */
export function Jobs() {
  const ink = useInks();
  const jobs = useJobs("hand-off");
  if (!jobs.data?.length) return null;
  return (
    <Box component="section" aria-label="Files of late" sx={{ display: "grid", gap: 1, mt: 1 }}>
      <Box component="h3" sx={{ fontSize: 13, m: 0 }}>
        Files of late
      </Box>
      {jobs.data.map((job) => (
        <Box key={job.id} sx={{ border: 1, borderColor: ink.line, borderRadius: 1, p: 1, display: "grid", gap: 0.5 }}>
          <Box sx={{ fontSize: 12, overflowWrap: "anywhere" }}>{job.title}</Box>
          {unfinished(job) && (
            <LinearProgress variant="determinate" value={100 * job.share} aria-label={`How much of ${job.title}`} />
          )}
          <Box sx={{ display: "flex", gap: 0.75, alignItems: "center", fontSize: 12, color: ink.faint }}>
            <Box sx={{ flex: 1, color: job.state === "failed" ? ink.red : undefined }}>{stateOf(job)}</Box>
            {job.file && (
              <a href={`/api/jobs/${job.id}/file`} download={job.file} style={{ color: ink.blue, fontWeight: 700 }}>
                Fetch it
              </a>
            )}
            <SmallButton onClick={() => void end(job)}>{unfinished(job) ? "Cancel" : "Let it go"}</SmallButton>
          </Box>
        </Box>
      ))}
    </Box>
  );
}

function stateOf(job: Job): string {
  if (job.state === "waiting") return "waits for its turn";
  if (job.state === "running") return `${Math.round(100 * job.share)} %${job.said ? `, ${job.said}` : ""}`;
  if (job.state === "done") return "ready";
  return job.state === "cancelled" ? "cancelled" : `not made: ${job.said}`;
}

const end = (job: Job) =>
  (unfinished(job) ? cancelJob(job) : forgetJob(job)).then(
    () => askAnew("hand-off"),
    (error: Error) => say(error.message, true),
  );
