import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ApiError, client, unwrap } from "../../api/client";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { PasswordField } from "./PasswordField";

/** Where a one-time link leads: its person says a password, and is in. */
export function Welcome({ secret }: { secret: string }) {
	const queries = useQueryClient();
	const [login, setLogin] = useState("");
	const [name, setName] = useState("");
	const [password, setPassword] = useState("");
	const [code, setCode] = useState("");
	const link = useQuery({
		queryKey: ["link", secret],
		queryFn: () => unwrap(client.POST("/api/links/look", { body: { secret } })),
		retry: false,
		staleTime: Number.POSITIVE_INFINITY,
	});
	const use = useMutation({
		mutationFn: () =>
			unwrap(client.POST("/api/links/use", { body: { secret, password, login, name, code } })),
		onSuccess: () => {
			queries.clear();
			window.location.assign("/");
		},
	});
	function submit(event: FormEvent): void {
		event.preventDefault();
		use.mutate();
	}
	if (link.isPending) return <Waiting what="Opening the link" />;
	return (
		<main className="mx-auto w-full max-w-[400px] px-4 pt-24">
			<h1 className="mb-1 text-2xl font-bold">Welcome to Bridge Chart</h1>
			{link.isError ? (
				<>
					<Trouble error={link.error} />
					<a href="/" className="btn btn-sm mt-3">
						Sign in
					</a>
				</>
			) : (
				<form onSubmit={submit} aria-label="Welcome" className="flex flex-col gap-3">
					<p className="text-muted">
						{link.data.first
							? "You are the first data lead of this instance: you bring files in, and invite the others."
							: `${link.data.name}, your login is ${link.data.login}. Say the password that you want to sign in with.`}
					</p>
					{link.data.first && (
						<>
							<LabelField label="Your name" width="w-full" value={name} save={setName} />
							<LabelField label="Login" width="w-full" value={login} save={setLogin} />
						</>
					)}
					<PasswordField label="Password" value={password} save={setPassword} fresh />
					{(code || (use.error instanceof ApiError && use.error.code === "code_needed")) && (
						<LabelField label="One-time code" width="w-full" value={code} save={setCode} />
					)}
					<button
						type="submit"
						className="btn btn-primary w-full"
						disabled={use.isPending || !password}
					>
						Come in
					</button>
					{use.isError && <Trouble error={use.error} />}
				</form>
			)}
		</main>
	);
}
