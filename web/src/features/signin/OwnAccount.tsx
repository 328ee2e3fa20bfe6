import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, unwrap } from "../../api/client";
import { useSession } from "../../api/session";
import { roleName } from "../../lib/words";
import { Trouble } from "../../ui/Trouble";
import { Codes } from "./Codes";
import { PasswordField } from "./PasswordField";
import { Tokens } from "./Tokens";

/** One's own account: a new password, and signing out wherever one is signed in. */
export function OwnAccount() {
	const session = useSession();
	const person = session.data;
	const must = person?.must_start_codes ?? false;
	const [old, setOld] = useState("");
	const [fresh, setFresh] = useState("");
	const change = useMutation({
		mutationFn: () => unwrap(client.PUT("/api/session/password", { body: { old, new: fresh } })),
		onSuccess: () => {
			setOld("");
			setFresh("");
		},
	});
	const leave = useMutation({
		mutationFn: () => unwrap(client.DELETE("/api/session/everywhere")),
		onSuccess: () => window.location.assign("/"),
	});
	function submit(event: FormEvent): void {
		event.preventDefault();
		change.mutate();
	}
	return (
		<div className="h-full overflow-auto px-5 py-4">
			<h1 className="text-xl font-bold">Your account</h1>
			<p className="mb-5 text-muted">
				{person?.name}, {person && roleName(person.role)}; you sign in as {person?.login}.
			</p>
			{must && (
				<p role="status" className="mb-4 max-w-2xl border-l-[3px] border-amber pl-3">
					Whoever has your role signs in with one-time codes here. Begin with them below; the rest
					opens then.
				</p>
			)}
			<div className="grid gap-10 min-[900px]:grid-cols-[minmax(0,420px)_minmax(0,560px)]">
				<div>
					<form onSubmit={submit} aria-labelledby="password" className="flex flex-col gap-3">
						<h2 id="password" className="font-bold">
							Change the password
						</h2>
						<PasswordField label="Old password" value={old} save={setOld} />
						<PasswordField label="New password" value={fresh} save={setFresh} fresh />
						<button
							type="submit"
							className="btn btn-primary btn-sm self-start"
							disabled={!old || !fresh || change.isPending}
						>
							Change it
						</button>
						{change.isSuccess && (
							<p role="status">It is changed. Wherever else you were signed in, you are no more.</p>
						)}
						{change.isError && <Trouble error={change.error} />}
					</form>
					<h2 className="mt-8 mb-1 font-bold">Sign out everywhere</h2>
					<p className="mb-2 text-muted">
						On this computer and on every other one: after a computer was left open, or lost.
					</p>
					<button
						type="button"
						className="btn btn-outline btn-sm"
						disabled={leave.isPending}
						onClick={() => leave.mutate()}
					>
						Sign out everywhere
					</button>
					{leave.isError && <Trouble error={leave.error} />}
					<Codes />
				</div>
				{!must && <Tokens />}
			</div>
		</div>
	);
}
