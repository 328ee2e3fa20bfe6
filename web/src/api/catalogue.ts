import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "./client";

/** What may be asked of the newest version. */
export function useCatalogue() {
	return useQuery({
		queryKey: ["catalogue"],
		queryFn: () => unwrap(client.GET("/api/catalogue")),
	});
}
