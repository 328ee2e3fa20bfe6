import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";

type TeacherIs = Schemas["TeacherIs"];

interface Props {
	/** The account's own name, to begin with. */
	name: string;
	schools: readonly { id: number; name: string }[];
	chosen: readonly TeacherIs[];
	choose: (teachers: TeacherIs[]) => void;
}

/** Which teacher of the rosters somebody is: near names are offered, and somebody says so. */
export function TeacherPick({ name, schools, chosen, choose }: Props) {
	const [typed, setTyped] = useState<string | null>(null);
	const text = (typed ?? name).trim();
	const found = useQuery({
		queryKey: ["teachers", text],
		enabled: text.length > 1,
		queryFn: () => unwrap(client.GET("/api/teachers", { params: { query: { text } } })),
		placeholderData: (before) => before,
	});
	const is = (a: TeacherIs, b: TeacherIs) => a.school === b.school && a.name === b.name;
	const called = new Map(schools.map((school) => [school.id, school.name]));
	const offered = (found.data?.teachers ?? []).filter(
		(one) => !chosen.some((held) => is(held, one)),
	);
	return (
		<fieldset>
			<legend className="text-[13px] font-semibold">In the rosters they are</legend>
			<ul className="text-[13px]">
				{chosen.map((one) => (
					<li key={`${one.school} ${one.name}`} className="flex items-baseline gap-2">
						<b>{one.name}</b> <span className="text-muted">{called.get(one.school)}</span>
						<button
							type="button"
							className="ml-auto text-ahead hover:underline"
							aria-label={`remove: ${one.name}, ${called.get(one.school)}`}
							onClick={() => choose(chosen.filter((held) => !is(held, one)))}
						>
							remove
						</button>
					</li>
				))}
			</ul>
			<input
				className="input input-sm my-1 w-full"
				aria-label="A teacher's name"
				value={typed ?? name}
				onChange={(event) => setTyped(event.target.value)}
			/>
			{found.isError && <Trouble error={found.error} />}
			<ul aria-label="Near names" className="max-h-40 overflow-auto text-[13px]">
				{text.length > 1 &&
					offered.map((one) => (
						<li key={`${one.school} ${one.name}`}>
							<button
								type="button"
								className="flex w-full items-baseline gap-2 py-0.5 text-left hover:bg-wash"
								onClick={() => choose([...chosen, { school: one.school, name: one.name }])}
							>
								<span className="text-ahead">{one.name}</span>
								<span className="text-muted">{one.school_name}</span>
								<span className="ml-auto truncate text-muted">{one.classes.join(", ")}</span>
							</button>
						</li>
					))}
				{text.length > 1 && found.isSuccess && offered.length === 0 && (
					<li className="text-muted">No other teacher of this year has a name near it.</li>
				)}
			</ul>
		</fieldset>
	);
}
