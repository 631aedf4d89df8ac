// Who is signed in on this page.
import { useQuery } from "@tanstack/react-query";
import { ask, http, rememberCsrf } from "../api/client";

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = await ask(http.GET("/api/session"));
      rememberCsrf(session.csrf);
      return session;
    },
  });
}
