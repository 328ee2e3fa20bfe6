import { useNavigate, useSearch } from "@tanstack/react-router";
import { useCatalogue } from "../../api/catalogue";
import type { Question } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { FindPeople } from "./FindPeople";
import { ListColumns } from "./ListColumns";
import { Lists } from "./Lists";
import { ListView } from "./ListView";
import { useChange, useLists } from "./useLists";

/** People: find somebody, and the lists to act on. */
export function PeoplePage() {
	const asked = useSearch({ from: "/people" });
	const navigate = useNavigate({ from: "/people" });
	const lists = useLists();
	const catalogue = useCatalogue();
	const list = lists.data?.find((one) => one.id === asked.list);
	const change = useChange(list);
	const question = asked.q ?? list?.question;
	// One's own list is changed itself; somebody else's is looked at in another way.
	const ask = (next: Question) => {
		if (list?.own) change.mutate({ question: next });
		else navigate({ search: { ...asked, q: next } });
	};
	const trouble = lists.error ?? catalogue.error ?? change.error;
	const opened = asked.list !== undefined || asked.q !== undefined;
	return (
		<div className="print-flow flex h-full min-h-0">
			<aside
				aria-label="Lists and columns"
				className="no-print w-[218px] shrink-0 overflow-auto border-r border-line bg-wash px-3 py-3"
			>
				<Lists lists={lists.data ?? []} now={list?.id} />
				{question && catalogue.data && (
					<ListColumns question={question} catalogue={catalogue.data} ask={ask} />
				)}
			</aside>
			<div className="print-flow flex min-w-0 flex-1 flex-col overflow-auto">
				{trouble != null && (
					<div className="p-4">
						<Trouble error={trouble} />
					</div>
				)}
				{opened && !question && lists.isSuccess && (
					<p className="p-6">There is no such list, or it is not shared with you any more.</p>
				)}
				{!opened && <FindPeople lists={lists.data ?? []} />}
				{question && catalogue.data && (
					<ListView
						key={list?.id ?? "none"}
						{...{ list, question, ask, change }}
						catalogue={catalogue.data}
						busy={change.isPending}
					/>
				)}
				{opened && (lists.isPending || catalogue.isPending) && (
					<Waiting what="Looking up your lists" />
				)}
			</div>
		</div>
	);
}
