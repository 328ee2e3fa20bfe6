import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { LabelField } from "../../ui/LabelField";

export type Asked = Omit<Schemas["AuditAsked"], "before" | "size">;

interface Props {
	asked: Asked;
	ask: (wanted: Asked) => void;
	/** What is done with the lines that fit. */
	children: ReactNode;
}

/** Whose lines, of what, about which student, of which days. */
export function Filters({ asked, ask, children }: Props) {
	const [number, setNumber] = useState(asked.number ?? "");
	const actions = useQuery({
		queryKey: ["audit", "actions"],
		queryFn: () => unwrap(client.GET("/api/audit/actions")),
		staleTime: Number.POSITIVE_INFINITY,
	});
	const people = useQuery({
		queryKey: ["accounts"],
		queryFn: () => unwrap(client.GET("/api/accounts")),
	});
	return (
		<form
			aria-label="Which lines"
			className="mb-3 flex flex-wrap items-end gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				ask({ ...asked, number: number.trim() });
			}}
		>
			<Select
				label="Who"
				value={asked.login ?? ""}
				options={(people.data?.accounts ?? []).map((one) => ({ key: one.login, words: one.name }))}
				all="everybody"
				choose={(login) => ask({ ...asked, login })}
			/>
			<Select
				label="What"
				value={asked.action ?? ""}
				options={(actions.data?.actions ?? []).map((one) => ({ key: one.key, words: one.says }))}
				all="everything"
				choose={(action) => ask({ ...asked, action })}
			/>
			<Day label="From" value={asked.since} save={(since) => ask({ ...asked, since })} />
			<Day label="To" value={asked.until} save={(until) => ask({ ...asked, until })} />
			<LabelField
				label="About the student with the number"
				value={number}
				save={(text) => {
					setNumber(text);
					if (!text) ask({ ...asked, number: "" });
				}}
			/>
			<button type="submit" className="btn btn-outline btn-sm">
				Look
			</button>
			<span className="ml-auto">{children}</span>
		</form>
	);
}

interface SelectProps {
	label: string;
	value: string;
	options: readonly { key: string; words: string }[];
	/** What it says where nothing is chosen. */
	all: string;
	choose: (key: string) => void;
}

function Select({ label, value, options, all, choose }: SelectProps) {
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<select
				className="select select-sm w-48"
				value={value}
				onChange={(event) => choose(event.target.value)}
			>
				<option value="">{all}</option>
				{options.map((one) => (
					<option key={one.key} value={one.key}>
						{one.words}
					</option>
				))}
			</select>
		</label>
	);
}

interface DayProps {
	label: string;
	value: string | null | undefined;
	save: (day: string | null) => void;
}

function Day({ label, value, save }: DayProps) {
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<input
				type="date"
				className="input input-sm w-36"
				value={value ?? ""}
				onChange={(event) => save(event.target.value || null)}
			/>
		</label>
	);
}
