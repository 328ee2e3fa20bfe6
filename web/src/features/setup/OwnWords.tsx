import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";
import { done } from "../../ui/toasts";
import { DATES, NUMBERS, textOf, type WordsText, wordsOf, wrongIn } from "./ownWords";

type Held = Schemas["WordsInfo"];

/** What the district calls things, and how it writes numbers and dates. */
export function OwnWords() {
	const found = useQuery({
		queryKey: ["words"],
		queryFn: () => unwrap(client.GET("/api/words")),
	});
	return (
		<section aria-labelledby="words" className="lg:col-span-2">
			<h2 id="words" className="mb-1 font-bold">
				The district's own words
			</h2>
			<p className="mb-3 max-w-2xl text-muted">
				Every sentence, screen and list speaks them, for everybody. Files are read by their own
				words as before, and by yours; exports write plain points and dates as 2026-03-02.
			</p>
			{found.isError && <Trouble error={found.error} />}
			{found.data && <Form key={found.data.revision} held={found.data} />}
		</section>
	);
}

function Form({ held }: { held: Held }) {
	const queries = useQueryClient();
	const [text, setText] = useState(() => textOf(held.words));
	const set = (part: Partial<WordsText>) => setText({ ...text, ...part });
	const say = async (words: Held["words"], revision: number): Promise<Held> => {
		const said = await unwrap(client.PUT("/api/words", { body: { words, revision } }));
		await queries.invalidateQueries();
		return said;
	};
	const put = useMutation({
		mutationFn: (words: Held["words"]) => say(words, held.revision),
		onSuccess: (said) =>
			done("Everybody reads these words now.", () => say(held.words, said.revision)),
	});
	const wrong = wrongIn(text);
	return (
		<form
			className="flex flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				if (!wrong) put.mutate(wordsOf(text));
			}}
		>
			<div className="flex flex-wrap items-end gap-3">
				<LabelField
					label="A year level is called"
					value={text.yearLevel}
					save={(yearLevel) => set({ yearLevel })}
				/>
				<LabelField
					label="Before its number"
					width="w-24"
					value={text.before}
					save={(before) => set({ before })}
				/>
				<LabelField
					label="With names of their own"
					width="w-64"
					hint="0 Nursery, 1 Reception"
					value={text.levels}
					save={(levels) => set({ levels })}
				/>
			</div>
			<div className="flex flex-wrap items-end gap-3">
				<Example
					label="Numbers as"
					from={NUMBERS}
					value={text.numbers}
					save={(numbers) => set({ numbers })}
				/>
				<Example
					label="Dates as"
					from={DATES}
					value={text.dates}
					save={(dates) => set({ dates })}
				/>
			</div>
			<div className="flex flex-wrap items-end gap-3">
				{held.characteristics.map((one) => (
					<LabelField
						key={one.id}
						label={one.called}
						hint={one.called}
						value={text.characteristics[one.id] ?? ""}
						save={(name) => set({ characteristics: { ...text.characteristics, [one.id]: name } })}
					/>
				))}
			</div>
			{put.isError && <Trouble error={put.error} />}
			<div className="flex items-center gap-4">
				<button
					type="submit"
					className="btn btn-primary btn-sm"
					disabled={wrong !== undefined || put.isPending}
				>
					Speak these words
				</button>
				<p role="status" className="text-muted">
					{wrong}
				</p>
			</div>
		</form>
	);
}

interface ExampleProps<T extends string> {
	label: string;
	from: T[];
	value: T;
	save: (value: T) => void;
}

function Example<T extends string>({ label, from, value, save }: ExampleProps<T>) {
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<select
				className="select select-sm w-44"
				value={value}
				onChange={(event) => {
					const chosen = from.find((one) => one === event.target.value);
					if (chosen) save(chosen);
				}}
			>
				{from.map((one) => (
					<option key={one}>{one}</option>
				))}
			</select>
		</label>
	);
}
