import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Session } from "../api/client";

const KEY = ["session"];

export function useSession() {
  return useQuery({
    queryKey: KEY,
    queryFn: () => unwrap(client.GET("/api/session")),
    staleTime: Infinity,
  });
}

/** Actions that end in another session: the rest of what is known is forgotten. */
export function useSessionChange() {
  const queries = useQueryClient();
  const settle = (session: Session) => {
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== KEY[0] });
    queries.setQueryData(KEY, session);
  };
  const signIn = useMutation({
    mutationFn: (body: { username: string; password: string }) =>
      unwrap(client.POST("/api/session", { body })),
    onSuccess: settle,
  });
  const signUp = useMutation({
    mutationFn: (body: { username: string; password: string }) =>
      unwrap(client.POST("/api/users", { body })),
    onSuccess: settle,
  });
  const signOut = useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/session")),
    onSuccess: settle,
  });
  return { signIn, signUp, signOut };
}
