// What was asked of the server and is kept for a while, for panels and for what the stage draws.
import { QueryClient } from "@tanstack/react-query";
import { ApiError } from "./client";

/** Whether a look-up that failed is tried again: not where the server said what is wrong with it. */
const again = (tries: number, error: Error) =>
  tries < 3 && !(error instanceof ApiError && error.status >= 400 && error.status < 500);

export const queries = new QueryClient({ defaultOptions: { queries: { retry: again, staleTime: 5000 } } });
