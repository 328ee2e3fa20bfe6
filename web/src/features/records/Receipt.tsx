import { moment } from "../../lib/words";
import { PlainTable } from "../../ui/PlainTable";
import type { Erasure } from "./useRecords";

/** What is called otherwise in the record. */
const WORDS: Record<string, string> = {
	student: "the student",
	student_detail: "names and birth dates",
	enrolment: "places in schools",
	class_member: "places in classes",
	characteristic_value: "characteristics",
	attempt: "sittings of tests",
	result: "results",
	claim: "targets and predictions",
	mark_sheet: "marks by question",
	choice_sheet: "options chosen",
	written: "written answers",
	credit: "credit records",
	alias: "other numbers",
	student_note: "notes about them",
	student_set: "lists",
};

/** What an erasure removed, and what nobody looked into: to hand over or to file. */
export function Receipt({ erasure }: { erasure: Erasure }) {
	const told = erasure.receipt;
	if (!told) return null;
	const rows = Object.entries(told.rows);
	return (
		<div className="mt-2 flex flex-col gap-3 pl-4">
			<p>
				Erasure {erasure.id}, done {erasure.done && moment(erasure.done)}; version {erasure.version}{" "}
				of the record is the first without them, and every earlier one was made anew.
			</p>
			<PlainTable heads={["Removed from the record", "Rows"]} figures={["Rows"]}>
				{rows.map(([table, n]) => (
					<tr key={table}>
						<th scope="row" className="font-normal">
							{WORDS[table] ?? table}
						</th>
						<td className="text-right">{n}</td>
					</tr>
				))}
			</PlainTable>
			<PlainTable heads={["File", "Lines of theirs"]} figures={["Lines of theirs"]}>
				{told.files.map((one) => (
					<tr key={`${one.file} ${one.waiting}`}>
						<th scope="row" className="font-normal">
							{one.file}
						</th>
						<td className="text-right">{one.waiting ? "waited, thrown away" : one.lines}</td>
					</tr>
				))}
			</PlainTable>
			<div>
				<p className="font-semibold">Not looked into</p>
				<ul className="list-disc pl-5 text-[13px]">
					{told.not_looked_into.map((one) => (
						<li key={one}>{one}</li>
					))}
					{told.attached.length > 0 && <li>Attached: {told.attached.join(", ")}</li>}
					{told.backups.length > 0 && (
						<li>
							Backups that hold them until they are thrown away (a restore erases them again):{" "}
							{told.backups.join(", ")}
						</li>
					)}
				</ul>
			</div>
		</div>
	);
}
