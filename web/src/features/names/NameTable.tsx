import { NameCells } from "./NameCells";
import { type Kind, keyOf, moved, ordered, type Said, type Saying } from "./names";

interface Props {
	kind: Kind;
	saying: Saying;
	say: (saying: Saying) => void;
}

/** The names of one kind, each with what it is to mean. */
export function NameTable({ kind, saying, say }: Props) {
	const what = kind.names[0]?.what;
	const list = what === "value" ? ordered(kind, saying) : kind.names;
	const others = `${kind.key} names`;
	const set = (key: string, part: Partial<Said>) =>
		say({ ...saying, [key]: { ...saying[key], ...part } });
	const of = what === "sitting" ? "Test" : undefined;
	return (
		<div className="min-w-0 flex-1">
			<datalist id={others}>
				{[...new Set(kind.names.map((one) => one.name))].map((one) => (
					<option key={one} value={one} />
				))}
			</datalist>
			<table>
				<caption className="sr-only">{kind.label}</caption>
				<thead>
					<tr className="border-line border-b text-left text-[13px]">
						<th className="min-w-40 py-1 pr-4">Name</th>
						{of && <th className="pr-4">{of}</th>}
						<th className="pr-4 text-right">
							{what === "school" || what === "value" || what === "characteristic"
								? "Students"
								: "Results"}
						</th>
						<th className="pr-4">Means</th>
						{what === "sitting" && <th className="pr-4">Was on</th>}
						{what === "characteristic" && <th className="pr-4">Holds</th>}
						{what === "value" && <th className="pr-4">Order</th>}
						<th className="min-w-56">So that</th>
					</tr>
				</thead>
				<tbody>
					{list.map((name, at) => (
						<NameCells
							key={keyOf(name)}
							name={name}
							said={saying[keyOf(name)] ?? {}}
							kind={kind}
							others={others}
							set={(part) => set(keyOf(name), part)}
							up={at > 0 ? () => say(moved(kind, saying, at, -1)) : undefined}
							down={at < list.length - 1 ? () => say(moved(kind, saying, at, 1)) : undefined}
						/>
					))}
				</tbody>
			</table>
		</div>
	);
}
