// Who is signed in on this page.
import { useQuery } from "@tanstack/react-query";
import { ask, http, rememberSession } from "../api/client";

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = await ask(http.GET("/api/session"));
      rememberSession(session);
      return session;
    },
  });
}
