import type { Schemas } from "../../api/client";
import type { LensProps } from "../../question/model/lens";

interface Props {
	body: Schemas["MovementBody"];
	open: LensProps["open"];
}

/** Full credit is framed and bold, a part of it dashed: colour is not needed. */
function look(credit: number): string {
	if (credit >= 1) return "font-bold border-ahead bg-ahead/10";
	if (credit > 0) return "border-dashed border-amber-ink bg-amber-wash";
	return "border-line";
}

/** Levels then by levels now, with what each move earns; a cell opens its students. */
export function Matrix({ body, open }: Props) {
	const levels = body.now_in.map((one) => one.name);
	const held = new Map(body.flows.map((flow) => [`${flow.before} ${flow.now}`, flow]));
	const down = levels.map((_, n) => n).reverse();
	return (
		<table className="border-separate border-spacing-0.5 text-[13px]">
			<caption className="sr-only">How many moved from which level to which</caption>
			<thead className="text-[11px] text-muted">
				<tr>
					<th scope="col" className="pr-2 text-right font-semibold">
						then, now
					</th>
					{levels.map((name) => (
						<th key={name} scope="col" className="max-w-14 truncate font-normal" title={name}>
							{name}
						</th>
					))}
				</tr>
			</thead>
			<tbody>
				{down.map((before) => (
					<tr key={levels[before]}>
						<th scope="row" className="pr-2 text-right text-[11px] font-normal text-muted">
							{levels[before]}
						</th>
						{levels.map((name, now) => {
							const flow = held.get(`${before} ${now}`);
							const { opens } = flow ?? {};
							return (
								<td
									key={name}
									className={`h-8 w-12 border text-center ${flow ? look(flow.credit) : "border-line"}`}
								>
									{flow && opens && (
										<button
											type="button"
											className="size-full hover:underline"
											title={`${levels[before]} then, ${name} now: credit ${Math.round(100 * flow.credit)}%`}
											onClick={() => open(opens)}
										>
											{flow.n}
										</button>
									)}
								</td>
							);
						})}
					</tr>
				))}
			</tbody>
			<tfoot className="text-[11px] text-muted">
				<tr>
					<td />
					<td colSpan={levels.length} className="pt-1">
						<span className={`mr-1 border px-1 ${look(1)}`}>n</span>full credit{" "}
						<span className={`mr-1 ml-3 border px-1 ${look(0.5)}`}>n</span>a part{" "}
						<span className={`mr-1 ml-3 border px-1 ${look(0)}`}>n</span>none
					</td>
				</tr>
			</tfoot>
		</table>
	);
}
