import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";
import { ApiError, client, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";

interface Props {
	/** Somebody was signed in here, and is no more. */
	over?: boolean;
}

export function SignIn({ over = false }: Props) {
	const queries = useQueryClient();
	const [login, setLogin] = useState("");
	const [password, setPassword] = useState("");
	const [code, setCode] = useState("");
	const ways = useQuery({ queryKey: ["ways"], queryFn: () => unwrap(client.GET("/api/sign-on")) });
	const entry = useMutation({
		mutationFn: () => unwrap(client.POST("/api/session", { body: { login, password, code } })),
		onSuccess: (person) => {
			// It may be somebody else who signs in: nothing that was looked at before stays.
			queries.removeQueries({ predicate: (one) => one.queryKey[0] !== "session" });
			queries.setQueryData(["session"], person);
		},
	});
	// Once a code is asked for, it stays asked for while somebody tries.
	const asked = useRef(false);
	asked.current ||= entry.error instanceof ApiError && entry.error.code === "code_needed";
	const needed = asked.current;
	const failed = entry.isError && !(needed && !code) ? entry.error : null;
	function submit(event: FormEvent): void {
		event.preventDefault();
		entry.mutate();
	}
	return (
		<main className="grid h-full grid-rows-[1fr_auto_2fr] bg-paper">
			<div />
			<form onSubmit={submit} className="mx-auto w-full max-w-[340px] px-4" aria-label="Sign in">
				<BridgeDrawing />
				<h1 className="mb-1 text-2xl font-bold">Bridge Chart</h1>
				<p className="mb-5 text-muted">From where they started to where they are.</p>
				{over && (
					<p role="status" className="mb-4 border-l-[3px] border-amber pl-3 text-amber-ink">
						The session is over. What you asked is kept, and is asked again once you are signed in.
					</p>
				)}
				<label className="mb-3 block">
					<span className="mb-1 block font-semibold">Login</span>
					<input
						className="input w-full"
						name="login"
						autoComplete="username"
						value={login}
						onChange={(event) => setLogin(event.target.value)}
						required
					/>
				</label>
				<label className="mb-4 block">
					<span className="mb-1 block font-semibold">Password</span>
					<input
						className="input w-full"
						name="password"
						type="password"
						autoComplete="current-password"
						value={password}
						onChange={(event) => setPassword(event.target.value)}
						required
					/>
				</label>
				{needed && (
					<label className="mb-4 block">
						<span className="mb-1 block font-semibold">One-time code</span>
						<input
							className="input w-full"
							name="code"
							autoComplete="one-time-code"
							// biome-ignore lint/a11y/noAutofocus: it appears as the next thing to say
							autoFocus
							value={code}
							onChange={(event) => setCode(event.target.value)}
						/>
						<span className="text-[13px] text-muted">
							The one that your app shows, or one of your recovery codes.
						</span>
					</label>
				)}
				<button type="submit" className="btn btn-primary w-full" disabled={entry.isPending}>
					Sign in
				</button>
				{ways.data?.provider && (
					<a className="btn btn-outline mt-3 w-full" href="/api/sign-on/begin">
						Sign in by {ways.data.provider}
					</a>
				)}
				{ways.data?.trouble && (
					<p
						role="alert"
						className="mt-4 rounded border border-behind/40 bg-behind-wash px-4 py-3 text-behind"
					>
						{ways.data.trouble}
					</p>
				)}
				{failed && (
					<div className="mt-4">
						<Trouble error={failed} />
					</div>
				)}
			</form>
		</main>
	);
}

function BridgeDrawing() {
	return (
		<svg viewBox="0 0 300 70" aria-hidden="true" className="mb-5 w-full">
			<path d="M0 60h300" stroke="var(--color-line)" strokeWidth="2" />
			<path d="M20 60C60-16 240-16 280 60" fill="none" stroke="var(--color-ink)" strokeWidth="2" />
			{[60, 100, 140, 180, 220].map((x) => (
				<path
					key={x}
					d={`M${x + 10} 60V${20 + ((x - 140) / 15) ** 2 * 0.7}`}
					stroke="var(--color-neither)"
				/>
			))}
			<circle
				cx="20"
				cy="60"
				r="5"
				fill="var(--color-paper)"
				stroke="var(--color-ink)"
				strokeWidth="2"
			/>
			<circle cx="280" cy="60" r="6" fill="var(--color-ahead)" />
		</svg>
	);
}
