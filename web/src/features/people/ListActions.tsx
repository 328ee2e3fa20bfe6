import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import {
	client,
	downloadCsv,
	downloadDictionary,
	downloadGrid,
	downloadWorkbook,
	type Question,
	unwrap,
} from "../../api/client";
import { useSession } from "../../api/session";
import { later } from "../../lib/later";
import { SaveGroup } from "../../question/drawer/SaveGroup";
import { FileButton, PdfButton } from "../../ui/FileButton";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";
import { Changes } from "./Changes";
import { PlanForm } from "./PlanForm";
import type { KeptList, useChange } from "./useLists";

const Sharing = later(async () => (await import("./Sharing")).Sharing);

interface Props {
	list: KeptList | undefined;
	question: Question;
	change: ReturnType<typeof useChange>;
	/** The version that was seen before. */
	seen: number | undefined;
	/** What is taken out: the whole list. */
	files: Question;
	fail: (error: unknown) => void;
}

const QUIET = "btn btn-outline btn-sm";

/** What can be done with a list. */
export function ListActions({ list, question, change, seen, files, fail }: Props) {
	return (
		<div className="no-print flex flex-wrap gap-2">
			{list && <Since list={list} seen={seen} />}
			{list?.own && (
				<>
					<Popover
						label="Share the list"
						title="Share"
						width={320}
						className={QUIET}
						trigger="Share"
					>
						{() => <Sharing list={list} />}
					</Popover>
					<Popover
						label={`${list.plan ? "Plan" : "Act"}: aim, start and review of the list`}
						title="Plan"
						width={380}
						className={QUIET}
						trigger={list.plan ? "Plan" : "Act"}
					>
						{() => <PlanForm list={list} change={change} />}
					</Popover>
				</>
			)}
			<Popover label="Copy the list" title="Copy" width={320} className={QUIET} trigger="Copy">
				{() => <Copies {...{ list, question }} />}
			</Popover>
			<Popover label="Take out as CSV" title="CSV" width={260} className={QUIET} trigger="CSV">
				{() => <CsvFiles title={list?.name ?? ""} files={files} fail={fail} />}
			</Popover>
			<button type="button" className={QUIET} onClick={() => window.print()}>
				Print
			</button>
			<PdfButton className={QUIET} fail={fail} />
			<PdfButton className={QUIET} fail={fail} paper="A3" />
			<FileButton
				words="Workbook"
				className="btn btn-primary btn-sm"
				bring={(signal) => downloadWorkbook(files, signal)}
				fail={fail}
			/>
		</div>
	);
}

/** The list as CSV, and beside it what its columns are; for whoever brings files in, also as a grid
 * that is filled in and comes back. */
function CsvFiles({ title, files, fail }: Pick<Props, "files" | "fail"> & { title: string }) {
	const wide = `${QUIET} w-full`;
	const session = useSession();
	return (
		<div className="space-y-2">
			<FileButton
				words="The list"
				className={wide}
				bring={(signal) => downloadCsv(files, signal)}
				fail={fail}
			/>
			<FileButton
				words="What its columns are"
				className={wide}
				bring={(signal) => downloadDictionary(files, signal)}
				fail={fail}
			/>
			{session.data?.may.includes("intake") && (
				<FileButton
					words="A grid to fill in and bring back"
					className={wide}
					bring={(signal) => downloadGrid(files, title, signal)}
					fail={fail}
				/>
			)}
		</div>
	);
}

/** How many rows are others than when one saw the list last. */
function Since({ list, seen }: { list: KeptList; seen: number | undefined }) {
	const found = useQuery({
		queryKey: ["list changes", list.id, list.revision, seen],
		queryFn: () =>
			unwrap(
				client.GET("/api/lists/{id}/changes", {
					params: { path: { id: list.id }, query: { since: seen ?? null } },
				}),
			),
		enabled: seen !== undefined,
	});
	if (seen === undefined || !found.data) return null;
	const changed = found.data.rows.length;
	return (
		<Popover
			label={`Since you looked: ${changed} changed`}
			title="What changed"
			width={460}
			className={QUIET}
			trigger={`Since you looked: ${changed} changed`}
		>
			{() => <Changes changes={found.data} />}
		</Popover>
	);
}

interface CopiesProps {
	list: KeptList | undefined;
	question: Question;
}

/** A copy of one's own, a group for questions, or no list any more. */
function Copies({ list, question }: CopiesProps) {
	const queries = useQueryClient();
	const navigate = useNavigate();
	const again = () => queries.invalidateQueries({ queryKey: ["lists"] });
	const copy = useMutation({
		mutationFn: (fixed: boolean) => {
			const name = list ? `${list.name}, ${fixed ? "as it was" : "copy"}` : "New list";
			return unwrap(client.POST("/api/lists", { body: { name, question, fixed } }));
		},
		onSuccess: async (made) => {
			await again();
			navigate({ to: "/people", search: { list: made.id } });
		},
	});
	const retire = useMutation({
		mutationFn: (id: number) =>
			unwrap(client.DELETE("/api/lists/{id}", { params: { path: { id } } })),
		onSuccess: async () => {
			await again();
			navigate({ to: "/people", search: {} });
		},
	});
	return (
		<div className="space-y-3">
			<button type="button" className={`${QUIET} w-full`} onClick={() => copy.mutate(false)}>
				{list ? "A list of your own like this" : "Keep it as a list"}
			</button>
			<button type="button" className={`${QUIET} w-full`} onClick={() => copy.mutate(true)}>
				A list of these students, as they are now
			</button>
			<div className="border-t border-line pt-2">
				<SaveGroup question={question} />
			</div>
			{list?.own && (
				<button
					type="button"
					className="btn btn-ghost btn-sm w-full text-behind"
					onClick={() => retire.mutate(list.id)}
				>
					Retire this list
				</button>
			)}
			{(copy.error ?? retire.error) != null && <Trouble error={copy.error ?? retire.error} />}
		</div>
	);
}
