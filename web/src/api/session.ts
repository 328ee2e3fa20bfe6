import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "./client";

/** Who is signed in; null if nobody is. */
export function useSession() {
	return useQuery<Schemas["Person"] | null>({
		queryKey: ["session"],
		staleTime: 60_000,
		queryFn: async () => (await unwrap(client.GET("/api/session"))).person,
	});
}
