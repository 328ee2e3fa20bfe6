import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { day, yearLevel } from "../../lib/words";
import { PlainTable } from "../../ui/PlainTable";
import { Trouble } from "../../ui/Trouble";

/** The district's figures as school leads see them beside their own: made once a period. */
export function Releases() {
	const queries = useQueryClient();
	const [title, setTitle] = useState("");
	const found = useQuery({
		queryKey: ["releases"],
		queryFn: () => unwrap(client.GET("/api/releases")),
	});
	const make = useMutation({
		mutationFn: () => unwrap(client.POST("/api/releases", { body: { title } })),
		onSuccess: () => {
			setTitle("");
			return queries.invalidateQueries({ queryKey: ["releases"] });
		},
	});
	const releases = found.data?.releases ?? [];
	return (
		<section aria-labelledby="releases">
			<h2 id="releases" className="mb-1 font-bold">
				Releases of the district's figures
			</h2>
			<p className="mb-3 text-muted">
				School leads see the district beside their own rows as of a release, by {yearLevel()} and
				one characteristic, where at least 10 students of 3 schools are behind it. Make one when a
				period is complete: what is kept later does not change it.
			</p>
			<form
				className="mb-4 flex items-end gap-3"
				onSubmit={(event) => {
					event.preventDefault();
					if (title.trim()) make.mutate();
				}}
			>
				<label>
					<span className="block text-[13px] font-semibold">Period</span>
					<input
						className="input input-sm w-56"
						value={title}
						maxLength={120}
						placeholder="Spring 2026"
						onChange={(event) => setTitle(event.target.value)}
					/>
				</label>
				<button
					type="submit"
					className="btn btn-primary btn-sm"
					disabled={!title.trim() || make.isPending}
				>
					Release as it is now
				</button>
			</form>
			{make.isSuccess && (
				<p role="status" className="mb-3">
					Released version {make.data.version} as “{make.data.title}”.
				</p>
			)}
			{(make.isError || found.isError) && <Trouble error={make.error ?? found.error} />}
			{found.isSuccess && releases.length === 0 && (
				<p>Nothing has been released yet, so school leads see their own students alone.</p>
			)}
			{releases.length > 0 && (
				<PlainTable heads={["Period", "Released", "Version", "By"]}>
					{releases.map((one) => (
						<tr key={one.id}>
							<th scope="row" className="font-semibold">
								{one.title}
							</th>
							<td>{day(one.at)}</td>
							<td>{one.version}</td>
							<td>{one.by}</td>
						</tr>
					))}
				</PlainTable>
			)}
		</section>
	);
}
