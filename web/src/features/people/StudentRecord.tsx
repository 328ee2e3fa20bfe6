import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { useSession } from "../../api/session";
import { count } from "../../lib/numbers";
import { LabelField } from "../../ui/LabelField";
import { Modal } from "../../ui/Modal";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";

/** What a data lead does with a student's record as a whole: hand it out, or erase it. */
export function StudentRecord({ student }: { student: number }) {
	const [erasing, setErasing] = useState(false);
	const session = useSession();
	if (!session.data?.may.includes("erase") || session.data.names_hidden) return null;
	return (
		<>
			<Popover
				label="This student's record"
				title="This student's record"
				width={240}
				className="btn btn-outline btn-sm"
				trigger="Record"
			>
				{(close) => (
					<div className="flex flex-col gap-2 p-1">
						<a
							className="btn btn-sm"
							href={`/api/students/${student}/everything`}
							download
							onClick={close}
						>
							Everything held of them
						</a>
						<button
							type="button"
							className="btn btn-sm"
							onClick={() => {
								close();
								setErasing(true);
							}}
						>
							Erase…
						</button>
					</div>
				)}
			</Popover>
			<Modal title="Erase this student" open={erasing} setOpen={setErasing} width={460}>
				{(close) => <Erase student={student} close={close} />}
			</Modal>
		</>
	);
}

function Erase({ student, close }: { student: number; close: () => void }) {
	const navigate = useNavigate();
	const [number, setNumber] = useState("");
	const [reference, setReference] = useState("");
	const held = useQuery({
		queryKey: ["held", student],
		queryFn: () =>
			unwrap(client.GET("/api/students/{id}/held", { params: { path: { id: student } } })),
	});
	const erase = useMutation({
		mutationFn: () =>
			unwrap(client.POST("/api/erasures", { body: { student, number, reference } })),
		onSuccess: () => navigate({ to: "/setup/records" }),
	});
	const told = held.data;
	return (
		<form
			aria-label="Erase this student"
			className="flex flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				erase.mutate();
			}}
		>
			<h2 className="font-bold">Erase this student for good?</h2>
			<p>
				From every version, file, list and note. Nobody can take it back; answers of earlier
				versions will say that somebody was erased since.
			</p>
			{told && (
				<p className="text-muted">
					The record holds lines in {count(told.files, "file")}, {count(told.results, "result")},{" "}
					{count(told.notes, "note")} and {count(told.lists, "list")} of them.
				</p>
			)}
			<LabelField label="Their number, once more" width="w-full" value={number} save={setNumber} />
			<LabelField
				label="Reference of the request, without a name"
				width="w-full"
				value={reference}
				save={setReference}
			/>
			{(held.error ?? erase.error) && <Trouble error={held.error ?? erase.error} />}
			<div className="flex gap-2">
				<button
					type="submit"
					className="btn btn-primary btn-sm"
					disabled={!number.trim() || !reference.trim() || erase.isPending}
				>
					Erase
				</button>
				<button type="button" className="btn btn-outline btn-sm" onClick={close}>
					Leave it
				</button>
			</div>
		</form>
	);
}
