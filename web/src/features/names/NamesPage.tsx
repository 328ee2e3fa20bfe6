import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, unwrap, uploadDraft } from "../../api/client";
import { PageUnder, SETUP } from "../../ui/PageUnder";
import { SeeFirst } from "../../ui/SeeFirst";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { NameTable } from "./NameTable";
import { asFile, type Kind, kindsOf, type NameInUse, rowsOf, type Saying } from "./names";

/** Names that mean the same, what is called otherwise, and when sittings were. */
export function NamesPage() {
	const found = useQuery({ queryKey: ["names"], queryFn: () => unwrap(client.GET("/api/names")) });
	return (
		<PageUnder
			of={SETUP}
			title="Names"
			about="Give a name another's, and the two are one in every answer, whichever file wrote them, and in files still to come. Undo it in the history, and they come apart again."
		>
			{found.isError && <Trouble error={found.error} />}
			{found.isPending && <Waiting what="Looking up the names" />}
			{found.data && found.data.names.length === 0 && (
				<p>Nothing is kept yet, so there are no names. Bring in a roster first.</p>
			)}
			{found.data && found.data.names.length > 0 && <Names names={found.data.names} />}
		</PageUnder>
	);
}

function Names({ names }: { names: NameInUse[] }) {
	const navigate = useNavigate();
	const kinds = kindsOf(names);
	const [chosen, choose] = useState(kinds[0]?.key ?? "");
	const [saying, say] = useState<Saying>({});
	const kind = kinds.find((one) => one.key === chosen) ?? kinds[0];
	const changes = rowsOf(names, saying).length;
	const look = useMutation({
		mutationFn: () => uploadDraft("names", asFile(names, saying)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.id } }),
	});
	return (
		<>
			<div className="flex items-start gap-8">
				<nav aria-label="Kinds of names" className="w-48 shrink-0">
					<KindList kinds={kinds} chosen={kind?.key} choose={choose} saying={saying} />
				</nav>
				{kind && <NameTable kind={kind} saying={saying} say={say} />}
			</div>
			{look.isError && <Trouble error={look.error} />}
			<SeeFirst
				wrong={changes === 0 ? "Nothing is said yet." : undefined}
				busy={look.isPending}
				look={() => look.mutate()}
			/>
		</>
	);
}

interface ListProps {
	kinds: Kind[];
	chosen: string | undefined;
	choose: (key: string) => void;
	saying: Saying;
}

function KindList({ kinds, chosen, choose, saying }: ListProps) {
	const first = kinds.find((kind) => kind.key.startsWith("value "));
	return (
		<ul>
			{kinds.map((kind) => {
				const said = rowsOf(kind.names, saying).length;
				return (
					<li key={kind.key}>
						{kind === first && (
							<span className="mt-3 block px-2 text-[13px] text-muted">Values of</span>
						)}
						<button
							type="button"
							aria-current={kind.key === chosen}
							className={`flex w-full justify-between rounded px-2 py-1 text-left hover:bg-base-200 ${
								kind.key === chosen ? "bg-base-200 font-semibold" : ""
							}`}
							onClick={() => choose(kind.key)}
						>
							<span>{kind.label}</span>
							<span className="text-muted tabular-nums">
								{said > 0 && `${said} said · `}
								{kind.names.length}
							</span>
						</button>
					</li>
				);
			})}
		</ul>
	);
}
