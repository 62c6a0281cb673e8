import { useQuery } from "@tanstack/react-query";
import { api, data } from "./api";

/** Who is signed in; null if nobody is, which is an answer, too. */
export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: async () => (await data(api.GET("/api/v1/session"))) ?? null,
    staleTime: 60_000,
  });
