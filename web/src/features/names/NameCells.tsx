import { figure } from "../../lib/numbers";
import { effectOf, HOLDS, type Kind, type NameInUse, type Said } from "./names";

interface Props {
	name: NameInUse;
	said: Said;
	kind: Kind;
	others: string;
	set: (part: Partial<Said>) => void;
	up: (() => void) | undefined;
	down: (() => void) | undefined;
}

/** One name: how many it is of, what it is to mean, and what follows. */
export function NameCells({ name, said, kind, others, set, up, down }: Props) {
	const apart = said.apart ?? [];
	return (
		<tr className="border-line border-b">
			<td className="py-1.5 pr-4">
				{name.name}
				{name.also.map((other) => (
					<Also
						key={other}
						other={other}
						gone={apart.includes(other)}
						toggle={() =>
							set({
								apart: apart.includes(other)
									? apart.filter((one) => one !== other)
									: [...apart, other],
							})
						}
					/>
				))}
			</td>
			{name.what === "sitting" && <td className="py-1.5 pr-4 text-muted">{name.of}</td>}
			<td className="py-1.5 pr-4 text-right tabular-nums">{figure(name.n, 0)}</td>
			<td className="py-1 pr-4">
				<input
					className="input input-sm w-48"
					aria-label={`${name.name} means`}
					list={others}
					value={said.means ?? ""}
					placeholder={name.name}
					onChange={(event) => set({ means: event.target.value })}
				/>
			</td>
			{name.what === "sitting" && (
				<td className="py-1 pr-4">
					<input
						type="date"
						className="input input-sm w-40"
						aria-label={`${name.name} was on`}
						value={said.date ?? name.dates[0] ?? ""}
						onChange={(event) => set({ date: event.target.value })}
					/>
					{name.dates.length > 1 && (
						<span className="block text-[13px] text-muted">
							{name.dates.length} days, by subject
						</span>
					)}
				</td>
			)}
			{name.what === "characteristic" && (
				<td className="py-1 pr-4">
					<select
						className="select select-sm w-52"
						aria-label={`${name.name} holds`}
						value={said.holds ?? name.holds}
						onChange={(event) => set({ holds: event.target.value })}
					>
						{HOLDS.map((one) => (
							<option key={one.key} value={one.key}>
								{one.label}
							</option>
						))}
					</select>
				</td>
			)}
			{name.what === "value" && (
				<td className="whitespace-nowrap py-1 pr-4">
					<Move label={`${name.name} up`} sign="↑" go={up} />
					<Move label={`${name.name} down`} sign="↓" go={down} />
				</td>
			)}
			<td className="py-1.5 text-[13px]" aria-live="polite">
				{effectOf(name, said, kind)}
			</td>
		</tr>
	);
}

function Also({ other, gone, toggle }: { other: string; gone: boolean; toggle: () => void }) {
	return (
		<span className="block text-[13px] text-muted">
			also <span className={gone ? "line-through" : ""}>{other}</span>{" "}
			<button type="button" className="font-semibold text-ahead hover:underline" onClick={toggle}>
				{gone ? "Leave" : "Take apart"}
			</button>
		</span>
	);
}

function Move({ label, sign, go }: { label: string; sign: string; go: (() => void) | undefined }) {
	return (
		<button
			type="button"
			className="btn btn-ghost btn-sm px-2"
			aria-label={label}
			disabled={!go}
			onClick={go}
		>
			{sign}
		</button>
	);
}
