import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";
import { figure } from "../../lib/numbers";
import { day } from "../../lib/words";
import { PlainTable } from "../../ui/PlainTable";
import { Trouble } from "../../ui/Trouble";

const OLD_DAYS = 2;

/** When the record was last backed up, and whether that was tried. */
export function Backups() {
	const found = useQuery({
		queryKey: ["backups"],
		queryFn: () => unwrap(client.GET("/api/backups")),
	});
	const told = found.data;
	const backups = told?.backups ?? [];
	const age = told?.last_good ? (Date.now() - Date.parse(told.last_good)) / 86_400_000 : null;
	return (
		<section aria-labelledby="backups">
			<h2 id="backups" className="mb-1 font-bold">
				Backups
			</h2>
			<p className="mb-2 text-muted">
				Each is tried at once: restored beside, every table as it was, and fifty questions answered
				alike.{" "}
				{told?.folder
					? `One is written each day into ${told.folder}.`
					: "None is written by itself until whoever runs this instance names a folder (backup_folder)."}
			</p>
			{found.isError && <Trouble error={found.error} />}
			{told && (
				<p
					role="status"
					className={`mb-2 border-l-[3px] pl-3 ${age === null || age > OLD_DAYS ? "border-behind text-behind" : "border-ahead"}`}
				>
					{told.last_good
						? `The last good one is of ${day(told.last_good)}.`
						: "There is no good backup of this record yet."}
				</p>
			)}
			{backups.length > 0 && (
				<PlainTable heads={["Written", "Version", "Megabytes", "Tried"]}>
					{backups.slice(0, 5).map((one) => (
						<tr key={one.id}>
							<th scope="row" className="font-semibold" title={one.file}>
								{day(one.at)}
							</th>
							<td>{one.version}</td>
							<td>{figure(one.bytes / 1e6)}</td>
							<td className={one.trouble ? "text-behind" : ""}>
								{one.trouble ?? (one.tried ? "all alike" : "not tried")}
							</td>
						</tr>
					))}
				</PlainTable>
			)}
		</section>
	);
}
