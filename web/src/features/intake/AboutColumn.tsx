import { useState } from "react";
import type { IntakeSettings, Schemas } from "../../api/client";
import { TextField } from "./TextField";

type About = NonNullable<IntakeSettings["about"]>[string];

interface Props {
	column: Schemas["ColumnInfo"];
	save: (about: About) => void;
}

const FIELDS = [
	{ key: "subject", label: "Subject" },
	{ key: "test", label: "Test" },
	{ key: "sitting", label: "Sitting" },
] as const;

const HOLDS_RESULTS = /^(score:|predicted|target)/;

/** What a column of results is about, where the sheet has one per subject, test or sitting. */
export function AboutColumn({ column, save }: Props) {
	const [open, setOpen] = useState(false);
	if (!HOLDS_RESULTS.test(column.role)) return null;
	const about = column.about as Partial<Record<"subject" | "test" | "sitting", string>>;
	const words = FIELDS.map((field) => about[field.key])
		.filter(Boolean)
		.join(" · ");
	const shown = words || "as the file";
	if (!open)
		return (
			<button
				type="button"
				className="text-left text-[13px] font-semibold text-ahead hover:underline"
				aria-label={`${shown}: what ${column.header} is about. Change`}
				onClick={() => setOpen(true)}
			>
				{words || <span className="font-normal">{shown}</span>}
			</button>
		);
	return (
		<div className="flex gap-2 py-1">
			{FIELDS.map((field) => (
				<TextField
					key={field.key}
					label={field.label}
					value={about[field.key] ?? ""}
					hint="as the file"
					width="w-28"
					save={(value) => save({ ...EMPTY, ...about, [field.key]: value.trim() })}
				/>
			))}
		</div>
	);
}

const EMPTY: About = { test: "", subject: "", sitting: "", date: null, form: "" };
