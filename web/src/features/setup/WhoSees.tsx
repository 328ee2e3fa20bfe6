import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { roleName } from "../../lib/words";
import { Trouble } from "../../ui/Trouble";

type Sight = Schemas["SightInfo"];

/** A table of characteristics, and notes, by the roles that see them. */
export function WhoSees() {
	const queries = useQueryClient();
	const found = useQuery({
		queryKey: ["sights"],
		queryFn: () => unwrap(client.GET("/api/sights")),
	});
	const say = useMutation({
		mutationFn: (one: Omit<Sight, "label" | "roles"> & { roles: string[] | null }) =>
			unwrap(client.PUT("/api/sights", { body: one })),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["sights"] }),
	});
	if (found.isError) return <Trouble error={found.error} />;
	const roles = found.data?.roles ?? [];
	/** As it was just said, while the server is told. */
	const shown = (one: Sight): Sight => {
		const said = say.isPending && say.variables.what === one.what ? say.variables : undefined;
		return said ? { ...one, sensitive: said.sensitive, roles: said.roles ?? one.roles } : one;
	};
	const toggled = (one: Sight, role: string) =>
		one.roles.includes(role) ? one.roles.filter((held) => held !== role) : [...one.roles, role];
	return (
		<section aria-labelledby="sights">
			<h2 id="sights" className="mb-1 font-bold">
				Who sees what
			</h2>
			<p className="mb-3 text-muted">
				A characteristic that a role does not see is in none of its pickers, splits, lists or files.
				A sensitive one is for data leads and school leads, unless you say otherwise.
			</p>
			{say.isError && <Trouble error={say.error} />}
			<table className="text-left [&_td]:py-1 [&_td]:pr-6 [&_th]:py-1 [&_th]:pr-6">
				<thead className="border-b border-line text-[13px] text-muted">
					<tr>
						<th scope="col">Characteristic</th>
						<th scope="col">Sensitive</th>
						{roles.map((role) => (
							<th key={role} scope="col">
								{roleName(role)}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{found.data?.sights.map(shown).map((one) => (
						<tr key={one.what}>
							<th scope="row" className="font-semibold">
								{one.label}
							</th>
							<td>
								{one.what !== "notes" && (
									<Box
										label={`${one.label} is sensitive`}
										checked={one.sensitive}
										change={() =>
											say.mutate({ what: one.what, sensitive: !one.sensitive, roles: null })
										}
									/>
								)}
							</td>
							{roles.map((role) => (
								<td key={role}>
									<Box
										label={`${one.label}: ${roleName(role)} sees it`}
										checked={one.roles.includes(role)}
										// A viewer sees no student, so nothing that is written about one.
										fixed={role === "data_lead" || (role === "viewer" && one.what === "notes")}
										change={() =>
											say.mutate({
												what: one.what,
												sensitive: one.sensitive,
												roles: toggled(one, role),
											})
										}
									/>
								</td>
							))}
						</tr>
					))}
				</tbody>
			</table>
		</section>
	);
}

interface BoxProps {
	label: string;
	checked: boolean;
	fixed?: boolean;
	change: () => void;
}

function Box({ label, checked, fixed = false, change }: BoxProps) {
	return (
		<input
			type="checkbox"
			aria-label={label}
			className="accent-(--color-ahead)"
			checked={checked}
			disabled={fixed}
			onChange={change}
		/>
	);
}
