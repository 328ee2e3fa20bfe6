import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";

export type Account = Schemas["Account"];
export type Said = Omit<Schemas["NewAccount"], "login">;
export type Made = Schemas["Link"] & { name: string };

const KEY = ["accounts"];

/** Everybody who may sign in, and what a data lead does with them. */
export function useAccounts(linked: (link: Made) => void) {
	const queries = useQueryClient();
	const again = () => queries.invalidateQueries({ queryKey: KEY });
	const of = (one: Account) => ({ params: { path: { account: one.id } } });
	const found = useQuery({
		queryKey: KEY,
		queryFn: () => unwrap(client.GET("/api/accounts")),
	});
	const invite = useMutation({
		mutationFn: (said: Said & { login: string }) =>
			unwrap(client.POST("/api/accounts", { body: said })),
		onSuccess: ({ account, link }) => {
			linked({ ...link, name: account.name });
			return again();
		},
	});
	const change = useMutation({
		mutationFn: ({ one, said }: { one: Account; said: Said }) =>
			unwrap(
				client.PUT("/api/accounts/{account}", {
					...of(one),
					body: { ...said, revision: one.revision },
				}),
			),
		onSettled: again,
	});
	const close = useMutation({
		mutationFn: (one: Account) =>
			unwrap(
				client.PUT("/api/accounts/{account}/closed", {
					...of(one),
					body: { closed: one.state !== "closed" },
				}),
			),
		onSettled: again,
	});
	const link = useMutation({
		mutationFn: (one: Account) => unwrap(client.POST("/api/accounts/{account}/link", of(one))),
		onSuccess: (made, one) => linked({ ...made, name: one.name }),
	});
	const signOut = useMutation({
		mutationFn: (one: Account) =>
			unwrap(client.DELETE("/api/accounts/{account}/sessions", of(one))),
		onSettled: again,
	});
	const takeCodes = useMutation({
		mutationFn: (one: Account) => unwrap(client.DELETE("/api/accounts/{account}/codes", of(one))),
		onSettled: again,
	});
	const seeAs = useMutation({
		mutationFn: (one: Account) =>
			unwrap(client.PUT("/api/session/as", { body: { account: one.id } })),
		onSuccess: () => {
			// Nothing that was seen as oneself stays.
			queries.clear();
			window.location.assign("/");
		},
	});
	return { found, invite, change, close, link, signOut, takeCodes, seeAs };
}
