import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";

export type Erasure = Schemas["Erasure"];
const ERASURES = ["erasures"];
const RETENTION = ["retention"];
const LOOK_AGAIN = 1500;
const UNDER_WAY = ["waiting", "sweeping"];

/** What was erased, what is about to be, and for how long leavers are kept. */
export function useRecords() {
	const queries = useQueryClient();
	const erasures = useQuery({
		queryKey: ERASURES,
		queryFn: async () => (await unwrap(client.GET("/api/erasures"))).erasures,
		refetchInterval: (query) =>
			query.state.data?.some((one) => UNDER_WAY.includes(one.state)) ? LOOK_AGAIN : false,
	});
	const kept = useQuery({
		queryKey: RETENTION,
		queryFn: () => unwrap(client.GET("/api/retention")),
	});
	const again = () =>
		Promise.all([
			queries.invalidateQueries({ queryKey: ERASURES }),
			queries.invalidateQueries({ queryKey: RETENTION }),
		]);
	const say = useMutation({
		mutationFn: (rule: Schemas["Retention"]) =>
			unwrap(client.PUT("/api/retention", { body: rule })),
		onSettled: again,
	});
	const leavers = useMutation({
		mutationFn: (due: number) => unwrap(client.POST("/api/erasures/leavers", { body: { due } })),
		onSettled: again,
	});
	return { erasures, kept, say, leavers };
}
