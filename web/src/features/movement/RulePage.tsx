import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { useCatalogue } from "../../api/catalogue";
import { client, unwrap, uploadDraft } from "../../api/client";
import { LabelField } from "../../ui/LabelField";
import { SeeFirst } from "../../ui/SeeFirst";
import { StartFrom } from "../../ui/StartFrom";
import { Trouble } from "../../ui/Trouble";
import { Credits } from "./Credits";
import {
	asFile,
	halved,
	inWords,
	type Levelled,
	levelled,
	type RuleText,
	rising,
	textOf,
	wrongIn,
} from "./rule";

/** A rule for movement, written or changed; it is kept like any file, as a new version. */
export function RulePage() {
	const navigate = useNavigate();
	const catalogue = useCatalogue();
	const [rule, setRule] = useState<RuleText | null>(null);
	const known = useQuery({
		queryKey: ["movement-rules"],
		queryFn: () => unwrap(client.GET("/api/movement-rules")),
	});
	const look = useMutation({
		mutationFn: (text: RuleText) => uploadDraft("movement", asFile(text)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.id } }),
	});
	const tests = catalogue.data ? levelled(catalogue.data) : [];
	const rules = known.data?.rules ?? [];
	const begin = (of: Levelled, half = false) => {
		const levels = half ? halved(of.levels) : of.levels;
		const { test, subject } = of;
		setRule({ name: rule?.name ?? "", test, subject, levels, credit: rising(levels) });
	};
	const of = tests.find((one) => one.test === rule?.test);
	const parted = rule !== null && of !== undefined && rule.levels.length > of.levels.length;
	return (
		<div className="h-full overflow-auto px-5 py-4">
			<p className="text-[13px]">
				<Link to="/intake" className="font-semibold text-ahead hover:underline">
					Intake
				</Link>
			</p>
			<h1 className="text-xl font-bold">Credit for movement</h1>
			<p className="mb-3 text-muted">
				Which move from a level to a level earns full credit, half of it, or none. A rule of the
				same name takes the place of the one before; undoing it brings that back.
			</p>
			{known.isError && <Trouble error={known.error} />}
			<div className="mb-4 flex flex-wrap items-end gap-3">
				<StartFrom
					kept="a rule that is kept"
					options={rules.map(({ rule: called, test, subject }) => ({
						key: `${test} ${subject} ${called}`,
						words: [called, test, subject].filter(Boolean).join(", "),
					}))}
					choose={(at) => {
						const chosen = rules[at];
						const its = tests.find((one) => one.test === chosen?.test);
						if (chosen && its) setRule(textOf(chosen, its.levels));
					}}
				/>
				<label>
					<span className="block text-[13px] font-semibold">Test</span>
					<select
						className="select select-sm w-56"
						value={of?.key ?? ""}
						onChange={(event) => {
							const chosen = tests.find((one) => one.key === event.target.value);
							if (chosen) begin(chosen);
						}}
					>
						<option value="">choose one with levels</option>
						{tests.map((one) => (
							<option key={one.key} value={one.key}>
								{one.test}
							</option>
						))}
					</select>
				</label>
				{rule && (
					<LabelField
						label="Name of the rule"
						value={rule.name}
						save={(name) => setRule({ ...rule, name })}
					/>
				)}
				{rule && of && (
					<label className="flex items-center gap-2 pb-1.5">
						<input
							type="checkbox"
							className="accent-(--color-ahead)"
							checked={parted}
							onChange={(event) => begin(of, event.target.checked)}
						/>
						each level in two halves
					</label>
				)}
			</div>
			{rule && <Credits rule={rule} set={setRule} />}
			{rule && (
				<ul aria-label="The rule read back" className="mt-3 max-w-3xl text-[13px] text-muted">
					{inWords(rule).map((text) => (
						<li key={text}>{text}</li>
					))}
				</ul>
			)}
			{look.isError && <Trouble error={look.error} />}
			<SeeFirst
				wrong={wrongIn(rule)}
				busy={look.isPending}
				look={() => rule && look.mutate(rule)}
			/>
		</div>
	);
}
