import type { Schemas } from "../../api/client";
import { count, percent } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { Attached } from "./Attached";
import { Key } from "./Key";
import { Options } from "./Options";
import { PairedAnswers } from "./Paired";
import { Written } from "./Written";

type Body = Schemas["ItemsBody"];

interface Props extends Pick<LensProps, "answer" | "open"> {
	body: Body;
	/** The place of the group in front. */
	front: number;
	look: (row: string | undefined) => void;
	/** The questions of a strand, or of another tag, alone. */
	only: (tag: string) => void;
	/** The same question in another form or sitting. */
	there: (asked: Schemas["Elsewhere"]) => void;
}

/** The row that is looked at: what was chosen and written, by group and by third of the test. */
export function Looked({ answer, body, front, open, look, only, there }: Props) {
	const row = body.looked;
	if (!row) return null;
	const share = body.rows.find((item) => item.label === row.label)?.shares[front];
	const group = body.groups[front];
	return (
		<section
			aria-label={`${row.label}, looked at`}
			className="looked sticky -bottom-2.5 z-10 mt-3 -mb-2.5 max-h-[46vh] shrink-0 overflow-auto border-t-2 border-line bg-base-100 py-2"
		>
			<div className="mb-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
				<h2 className="font-bold">
					{row.label}
					{row.title && ` · ${row.title}`}
				</h2>
				<p className="text-[13px] text-muted">
					{[count(row.maximum, "mark"), ...Object.values(row.about ?? {})].join(" · ")}
				</p>
				{share?.opens && group && (
					<Link go={() => share.opens && open(share.opens)}>
						{group.label}: the {count(share.n, "student")}
					</Link>
				)}
				{row.page && <Attached answer={answer} form={body.form} page={row.page} />}
				{(row.questions ?? []).length > 0 && (
					<Link go={() => only(row.label)}>{row.label} alone</Link>
				)}
				<span className="no-print ml-auto">
					<Link go={() => look(undefined)}>Close</Link>
				</span>
			</div>
			{row.doubt && (
				<p className="mb-2 max-w-3xl border-l-4 border-behind pl-3 font-semibold">{row.doubt}</p>
			)}
			<div className="flex flex-wrap items-start gap-x-6 gap-y-3">
				{(row.options ?? []).length > 0 && <Options {...{ body, front, row, open }} />}
				<Written {...{ body, front, row }} />
				<PairedAnswers row={row} />
				<Others {...{ row, look, there }} />
			</div>
			{row.key && <Key {...{ answer, row }} form={body.form} />}
		</section>
	);
}

/** Where the same question was answered too; of a strand the questions that it sums up. */
function Others({ row, look, there }: Pick<Props, "look" | "there"> & { row: Schemas["Looked"] }) {
	const elsewhere = row.elsewhere ?? [];
	const questions = row.questions ?? [];
	if (elsewhere.length === 0 && questions.length === 0) return null;
	return (
		<div className="max-w-64 flex-1 text-[13px]">
			<h3 className="font-semibold">
				{elsewhere.length > 0 ? "The same question" : "Its questions"}
			</h3>
			<ul>
				{elsewhere.map((one) => (
					<li key={`${one.label} ${one.question}`}>
						<Link go={() => there(one)}>{one.label}</Link> {one.question}: {percent(one.share)}{" "}
						<span className="text-muted">
							({percent(one.low)} to {percent(one.high)}; {one.n} of {one.n + one.missing})
						</span>
					</li>
				))}
			</ul>
			<p className="flex flex-wrap gap-x-2">
				{questions.map((name) => (
					<Link key={name} go={() => look(name)}>
						{name}
					</Link>
				))}
			</p>
		</div>
	);
}

function Link({ go, children }: { go: () => void; children: React.ReactNode }) {
	return (
		<button
			type="button"
			className="text-[13px] font-semibold text-ahead hover:underline"
			onClick={go}
		>
			{children}
		</button>
	);
}
