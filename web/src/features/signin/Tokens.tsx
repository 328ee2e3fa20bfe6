import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { day } from "../../lib/words";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";

const KEY = ["tokens"];
const DAYS = [30, 90, 366];
const ACTIONS: Record<string, string> = {
	published: "see what is published",
	ask: "ask questions, without names",
	open_students: "list students",
	export: "take numbers out",
	intake: "bring files in",
	history: "read and undo what was kept",
	pair: "pair classes",
	release: "release the district's figures",
	sight: "say who sees what",
	words: "say the district's words",
	backups: "see when backups were made",
};

/** Tokens by which programs ask as oneself. */
export function Tokens() {
	const queries = useQueryClient();
	const [made, setMade] = useState<Schemas["MadeToken"] | null>(null);
	const found = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET("/api/tokens")) });
	const again = () => queries.invalidateQueries({ queryKey: KEY });
	const make = useMutation({
		mutationFn: (body: Schemas["NewToken"]) => unwrap(client.POST("/api/tokens", { body })),
		onSuccess: (told) => {
			setMade(told);
			return again();
		},
	});
	const revoke = useMutation({
		mutationFn: (token: number) =>
			unwrap(client.DELETE("/api/tokens/{token}", { params: { path: { token } } })),
		onSettled: again,
	});
	const error = found.error ?? make.error ?? revoke.error;
	return (
		<section aria-labelledby="tokens">
			<h2 id="tokens" className="mb-1 font-bold">
				Tokens for programs
			</h2>
			<p className="mb-3 text-muted">
				A program that has one asks as you: what you see, at most what you let it, until its day. It
				sends it as <code>Authorization: Bearer</code>.
			</p>
			{made && (
				<p role="status" className="mb-3 border-l-[3px] border-amber pl-3">
					The token for {made.token.name}, shown this once:
					<input
						className="input input-sm mt-1 w-full font-mono text-xs"
						aria-label="The token"
						readOnly
						value={made.secret}
						onFocus={(event) => event.target.select()}
					/>
				</p>
			)}
			<ul className="mb-3">
				{(found.data?.tokens ?? []).map((one) => (
					<li
						key={one.id}
						className="flex flex-wrap items-baseline gap-x-3 border-t border-line py-1"
					>
						<b>{one.name}</b>
						<span className="text-muted">
							may {one.may.map((action) => ACTIONS[action] ?? action).join(", ")}; until{" "}
							{day(one.good_until)}; {one.seen ? `last used ${day(one.seen)}` : "never used"}
						</span>
						<button
							type="button"
							className="ml-auto text-ahead hover:underline"
							aria-label={`Revoke: ${one.name}`}
							disabled={revoke.isPending}
							onClick={() => revoke.mutate(one.id)}
						>
							Revoke
						</button>
					</li>
				))}
			</ul>
			{error && <Trouble error={error} />}
			<NewToken
				may={found.data?.may ?? []}
				busy={make.isPending}
				make={(one) => make.mutate(one)}
			/>
		</section>
	);
}

interface NewProps {
	may: readonly string[];
	busy: boolean;
	make: (one: Schemas["NewToken"]) => void;
}

function NewToken({ may, busy, make }: NewProps) {
	const [name, setName] = useState("");
	const [days, setDays] = useState(90);
	const [chosen, setChosen] = useState<string[]>(["ask"]);
	function submit(event: FormEvent): void {
		event.preventDefault();
		make({ name: name.trim(), may: chosen, days });
		setName("");
	}
	return (
		<form onSubmit={submit} aria-label="A new token" className="flex flex-col gap-2">
			<div className="flex items-end gap-3">
				<LabelField label="Which program" value={name} save={setName} />
				<label>
					<span className="block text-[13px] font-semibold">Good for</span>
					<select
						className="select select-sm w-32"
						value={days}
						onChange={(event) => setDays(Number(event.target.value))}
					>
						{DAYS.map((one) => (
							<option key={one} value={one}>
								{one} days
							</option>
						))}
					</select>
				</label>
			</div>
			<fieldset className="grid grid-cols-2 gap-x-4 text-[13px]">
				<legend className="font-semibold">It may</legend>
				{may.map((action) => (
					<label key={action} className="flex items-baseline gap-2">
						<input
							type="checkbox"
							className="relative top-0.5 accent-(--color-ahead)"
							checked={chosen.includes(action)}
							onChange={(event) =>
								setChosen(
									event.target.checked
										? [...chosen, action]
										: chosen.filter((one) => one !== action),
								)
							}
						/>
						{ACTIONS[action] ?? action}
					</label>
				))}
			</fieldset>
			<button
				type="submit"
				className="btn btn-outline btn-sm self-start"
				disabled={busy || !name.trim() || !chosen.length}
			>
				Make a token
			</button>
		</form>
	);
}
