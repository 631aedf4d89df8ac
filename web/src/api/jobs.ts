// Jobs: what the server works at for a while. A page asks how far they are until they are finished.
import { useQuery } from "@tanstack/react-query";
import { ApiError, ask, http, type Schemas, whoIsIn } from "./client";
import { queries } from "./queries";

export type Job = Schemas["JobOut"];

export const unfinished = (job: Job) => job.state === "waiting" || job.state === "running";
const OFTEN = 600; // milliseconds

/** By whose they are: of another who signs in on this page nothing is shown, not even for a moment. */
const keyOf = (kind: string) => ["jobs", whoIsIn(), kind];
export const askAnew = (kind: string) => queries.invalidateQueries({ queryKey: keyOf(kind) });

/** One's own jobs of a kind, latest first. */
export const useJobs = (kind: string) =>
  useQuery({
    queryKey: keyOf(kind),
    queryFn: () => ask(http.GET("/api/jobs", { params: { query: { kind } } })),
    refetchInterval: ({ state }) => (state.data?.some(unfinished) ? OFTEN : false),
  });

const at = (job: Job) => ({ params: { path: { job_id: job.id } } });
export const cancelJob = (job: Job) => ask(http.POST("/api/jobs/{job_id}/cancel", at(job)));
export const forgetJob = (job: Job) => ask(http.DELETE("/api/jobs/{job_id}", at(job)));

/** A job once it is done; throws with what is to be said where it is not. A server that is away is asked again. */
export async function finished(begun: Job, told?: (job: Job) => void): Promise<Job> {
  let job = begun;
  while (unfinished(job)) {
    told?.(job);
    await new Promise((done) => setTimeout(done, OFTEN));
    job = await ask(http.GET("/api/jobs/{job_id}", at(job))).catch((error: ApiError) => {
      if (error.status === 0 || error.status >= 500) return job;
      throw error;
    });
  }
  if (job.state !== "done") throw new ApiError(422, job.said || "it was cancelled");
  return job;
}
