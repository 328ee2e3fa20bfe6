import { figure } from "../../lib/numbers";
import { yearLevel } from "../../lib/words";
import type { LensProps } from "../../question/model/lens";
import { DataTable } from "../../ui/DataTable";

/** What similar starters reach, at both ends of each line. */
export function StartNumbers({ answer }: LensProps) {
	const body = answer.body;
	if (body.show !== "start_to_now") return null;
	return (
		<DataTable
			caption="What similar starters reach"
			rows={body.lines}
			keyOf={(row) => row.label}
			columns={[
				{ key: "label", label: yearLevel(), side: "left", cell: (row) => row.label },
				{ key: "n", label: "students behind the line", cell: (row) => figure(row.n, 0) },
				{ key: "from", label: "lowest start", cell: (row) => figure(row.x[0]) },
				{ key: "expects", label: "expects", cell: (row) => figure(row.y[0]) },
				{ key: "to", label: "highest start", cell: (row) => figure(row.x.at(-1)) },
				{ key: "there", label: "expects there", cell: (row) => figure(row.y.at(-1)) },
			]}
		/>
	);
}
