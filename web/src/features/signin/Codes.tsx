import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, unwrap } from "../../api/client";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";
import { PasswordField } from "./PasswordField";

const KEY = ["codes"];

/** One-time codes of one's own account: begun, and ended. */
export function Codes() {
	const queries = useQueryClient();
	const [password, setPassword] = useState("");
	const state = useQuery({
		queryKey: KEY,
		queryFn: () => unwrap(client.GET("/api/session/codes")),
	});
	const offer = useMutation({
		mutationFn: () => unwrap(client.POST("/api/session/codes/offer")),
	});
	const end = useMutation({
		mutationFn: () => unwrap(client.PUT("/api/session/codes/end", { body: { password } })),
		onSuccess: () => {
			setPassword("");
			return queries.invalidateQueries({ queryKey: KEY });
		},
	});
	return (
		<section aria-labelledby="codes" className="mt-8">
			<h2 id="codes" className="mb-1 font-bold">
				One-time codes
			</h2>
			<p className="mb-2 text-muted">
				{state.data?.on
					? `Sign-in asks for a code of your app as well. ${state.data.recovery_left} recovery codes are left.`
					: "A second thing beside the password: an app on your telephone shows a code that changes every half minute."}
			</p>
			{state.data?.on && (
				<form
					aria-label="Sign in without codes"
					className="flex flex-col gap-2"
					onSubmit={(event) => {
						event.preventDefault();
						end.mutate();
					}}
				>
					<PasswordField label="Password" value={password} save={setPassword} />
					<button
						type="submit"
						className="btn btn-outline btn-sm self-start"
						disabled={!password || end.isPending}
					>
						Sign in without codes again
					</button>
				</form>
			)}
			{state.data && !state.data.on && !offer.data && (
				<button
					type="button"
					className="btn btn-outline btn-sm"
					disabled={offer.isPending}
					onClick={() => offer.mutate()}
				>
					Begin with codes
				</button>
			)}
			{offer.data && (
				<Begin
					offered={offer.data}
					done={() => {
						offer.reset();
						return queries.invalidateQueries({ queryKey: KEY });
					}}
				/>
			)}
			{(state.error ?? end.error ?? offer.error) && (
				<Trouble error={state.error ?? end.error ?? offer.error} />
			)}
		</section>
	);
}

interface BeginProps {
	offered: { secret: string; address: string; picture: string };
	done: () => void;
}

function Begin({ offered, done }: BeginProps) {
	const queries = useQueryClient();
	const [code, setCode] = useState("");
	const [password, setPassword] = useState("");
	const start = useMutation({
		mutationFn: () =>
			unwrap(
				client.PUT("/api/session/codes", { body: { secret: offered.secret, code, password } }),
			),
		onSuccess: () => setPassword(""),
	});
	function submit(event: FormEvent): void {
		event.preventDefault();
		start.mutate();
	}
	if (start.data)
		return (
			<div role="status" className="border-l-[3px] border-amber pl-3">
				<p className="mb-2">
					From now on sign-in asks for a code. Print these recovery codes, or write them down: each
					is good once, for the day on which the app is lost. They are not shown again.
				</p>
				<ul className="grid grid-cols-2 gap-x-6 font-mono text-[13px]" aria-label="Recovery codes">
					{start.data.codes.map((one) => (
						<li key={one}>{one}</li>
					))}
				</ul>
				<button
					type="button"
					className="btn btn-primary btn-sm mt-3"
					onClick={() => {
						done();
						void queries.invalidateQueries({ queryKey: ["session"] });
					}}
				>
					I have them
				</button>
			</div>
		);
	return (
		<form onSubmit={submit} aria-label="Begin with codes" className="flex flex-col gap-2">
			<p>Let the app read this picture, or type the secret into it.</p>
			<img src={offered.picture} alt="The secret, for an app to read" width={180} height={180} />
			<p className="font-mono text-[13px]" data-testid="secret">
				{offered.secret}
			</p>
			<LabelField label="The code that it shows now" value={code} save={setCode} />
			<PasswordField label="Password" value={password} save={setPassword} />
			<button
				type="submit"
				className="btn btn-primary btn-sm self-start"
				disabled={!code || !password || start.isPending}
			>
				Begin
			</button>
			{start.isError && <Trouble error={start.error} />}
		</form>
	);
}
