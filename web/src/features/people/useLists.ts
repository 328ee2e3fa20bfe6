import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Question, type Schemas, unwrap } from "../../api/client";

export type KeptList = Schemas["KeptList"];

export function useLists() {
	return useQuery({
		queryKey: ["lists"],
		queryFn: async () => (await unwrap(client.GET("/api/lists"))).lists,
	});
}

/** What of a list may be changed by its owner; what is left away stays. */
export interface ListChange {
	name?: string;
	question?: Question;
	plan?: Schemas["Plan"];
}

/** Changes a list; each change is of what is in view, so that nobody's is lost. */
export function useChange(list: KeptList | undefined) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (change: ListChange) => {
			if (!list) throw new Error("no list is open");
			const params = { path: { id: list.id } };
			const body = { revision: list.revision, ...change };
			return unwrap(client.PUT("/api/lists/{id}", { params, body }));
		},
		onSuccess: (now) => {
			queries.setQueryData<KeptList[]>(["lists"], (before) =>
				before?.map((one) => (one.id === now.id ? { ...now, students: one.students } : one)),
			);
			return queries.invalidateQueries({ queryKey: ["lists"] });
		},
	});
}
