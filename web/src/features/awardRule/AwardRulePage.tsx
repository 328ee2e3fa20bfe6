import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, unwrap, uploadDraft } from "../../api/client";
import { LabelField } from "../../ui/LabelField";
import { SeeFirst } from "../../ui/SeeFirst";
import { StartFrom } from "../../ui/StartFrom";
import { Trouble } from "../../ui/Trouble";
import { Lines } from "./Lines";
import { ReadBack } from "./ReadBack";
import { asFile, asRows, awardsIn, emptyRow, levelOf, type Written, wrongIn } from "./rule";

/** The rule of an award, written or changed, read back and tried; it is kept like any file. */
export function AwardRulePage() {
	const navigate = useNavigate();
	const [written, setWritten] = useState<Written | null>(null);
	const kept = useQuery({
		queryKey: ["award-rules"],
		queryFn: () => unwrap(client.GET("/api/award-rules")),
	});
	const rows = written ? asRows(written) : [];
	const read = useQuery({
		queryKey: ["award-rules", "try", rows],
		queryFn: () => unwrap(client.POST("/api/award-rules/try", { body: { rows } })),
		enabled: rows.length > 0,
		placeholderData: (before) => before,
	});
	const look = useMutation({
		mutationFn: (one: Written) => uploadDraft("award", asFile(one)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.id } }),
	});
	const awards = awardsIn(kept.data?.rows ?? []);
	return (
		<div className="h-full overflow-auto px-5 py-4">
			<p className="text-[13px]">
				<Link to="/intake" className="font-semibold text-ahead hover:underline">
					Intake
				</Link>
			</p>
			<h1 className="text-xl font-bold">The rule of an award</h1>
			<p className="mb-3 text-muted">
				All of its conditions must hold, by one choice of records. A rule of the same name, school
				year and year level takes the place of the one before; undoing it brings that back.
			</p>
			{kept.isError && <Trouble error={kept.error} />}
			<div className="mb-3 flex flex-wrap items-end gap-3">
				<StartFrom
					kept="a rule that is kept"
					options={awards.map(({ award, school_year, year_level }) => ({
						key: `${award} ${school_year} ${year_level}`,
						words: [award, year_level, school_year && `from ${school_year}`]
							.filter(Boolean)
							.join(", "),
					}))}
					choose={(at) => setWritten(awards[at] ?? null)}
				/>
				<button
					type="button"
					className="btn btn-outline btn-sm"
					onClick={() =>
						setWritten({ award: "", school_year: "", year_level: null, rows: [emptyRow("Total")] })
					}
				>
					Begin a new one
				</button>
				{written && (
					<>
						<LabelField
							label="Award"
							value={written.award}
							save={(award) => setWritten({ ...written, award })}
						/>
						<LabelField
							label="From school year (blank: always)"
							value={written.school_year}
							save={(school_year) => setWritten({ ...written, school_year })}
						/>
						<LabelField
							label="Asked of year level (blank: everybody)"
							value={written.year_level === null ? "" : String(written.year_level)}
							save={(said) => setWritten({ ...written, year_level: levelOf(said) })}
						/>
					</>
				)}
			</div>
			{written && (
				<Lines
					{...{ written, set: setWritten }}
					names={kept.data?.names ?? {}}
					troubles={read.data?.troubles ?? []}
				/>
			)}
			{read.isError && <Trouble error={read.error} />}
			{written && read.data && <ReadBack read={read.data} />}
			{look.isError && <Trouble error={look.error} />}
			<SeeFirst
				wrong={wrongIn(written, read.data)}
				busy={look.isPending || read.isPlaceholderData}
				look={() => written && look.mutate(written)}
			/>
		</div>
	);
}
