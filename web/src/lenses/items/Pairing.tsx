import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useCatalogue } from "../../api/catalogue";
import { type Answer, client, unwrap } from "../../api/client";
import { useSession } from "../../api/session";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";
import { sittingOf } from "./Attached";

/** For a lead: which two classes are paired, so that their teachers can talk about this test. */
export function Pairing({ answer }: { answer: Answer }) {
	const session = useSession();
	const sitting = sittingOf(answer);
	if (sitting === undefined || !session.data?.may.includes("pair")) return null;
	return (
		<Popover
			label="Pair classes for a talk about this test"
			title="A talk between two teachers"
			className="mb-1 text-[13px] font-semibold text-ahead hover:underline"
			trigger="pair classes …"
		>
			{() => <Pairs sitting={sitting} />}
		</Popover>
	);
}

function Pairs({ sitting }: { sitting: number }) {
	const cache = useQueryClient();
	const catalogue = useCatalogue();
	const [one, setOne] = useState("");
	const [other, setOther] = useState("");
	const found = useQuery({
		queryKey: ["pairings"],
		queryFn: async () => (await unwrap(client.GET("/api/pairings"))).pairings,
	});
	const again = () => cache.invalidateQueries({ queryKey: ["pairings"] });
	const pair = useMutation({
		mutationFn: () =>
			unwrap(
				client.POST("/api/pairings", {
					body: { sitting, one: Number(one), other: Number(other) },
				}),
			),
		onSuccess: again,
	});
	const end = useMutation({
		mutationFn: (id: number) =>
			unwrap(client.DELETE("/api/pairings/{id}", { params: { path: { id } } })),
		onSuccess: again,
	});
	const trouble = pair.error ?? end.error;
	const classes = (catalogue.data?.classes ?? []).flatMap(({ id, label }) =>
		typeof id === "number" ? [{ id, label }] : [],
	);
	return (
		<div className="grid gap-2">
			<p className="text-[13px] text-muted">
				Each teacher then sees the other class’s shares, options and what three or more wrote alike;
				no names and no single student.
			</p>
			<ul>
				{(found.data ?? []).map((held) => (
					<li key={held.id} className="flex justify-between gap-2">
						<span>
							{held.classes.join(" and ")}
							<span className="block text-[13px] text-muted">
								{held.sitting}, by {held.by}
							</span>
						</span>
						<button
							type="button"
							className="shrink-0 self-start text-ahead hover:underline"
							aria-label={`End the pairing of ${held.classes.join(" and ")}`}
							onClick={() => end.mutate(held.id)}
						>
							end
						</button>
					</li>
				))}
			</ul>
			<Pick label="The class" classes={classes} chosen={one} choose={setOne} />
			<Pick label="and the class" classes={classes} chosen={other} choose={setOther} />
			<button
				type="button"
				className="btn btn-sm"
				disabled={!one || !other || pair.isPending}
				onClick={() => pair.mutate()}
			>
				Pair them
			</button>
			{trouble && <Trouble error={trouble} />}
		</div>
	);
}

interface PickProps {
	label: string;
	classes: { id: number; label: string }[];
	chosen: string;
	choose: (id: string) => void;
}

function Pick({ label, classes, chosen, choose }: PickProps) {
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<select
				className="select select-sm w-full"
				value={chosen}
				onChange={(event) => choose(event.target.value)}
			>
				<option value="">choose …</option>
				{classes.map((one) => (
					<option key={one.id} value={one.id}>
						{one.label}
					</option>
				))}
			</select>
		</label>
	);
}
