import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { roleName } from "../../lib/words";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";
import { TeacherPick } from "./TeacherPick";
import type { Account, Said } from "./useAccounts";

interface Props {
	/** Null: somebody new. */
	of: Account | null;
	data: Schemas["AccountList"];
	error: Error | null;
	busy: boolean;
	leave: () => void;
	save: (login: string, said: Said) => void;
}

const HINTS: Record<string, string> = {
	data_lead: "Sees every student, brings files in, and looks after accounts.",
	school_lead: "Sees the students of these schools, and the district as it is released.",
	teacher: "Sees the students of their own classes, whoever they are from day to day.",
	viewer: "Sees what is published of the district, and no student.",
};

/** Who somebody is and what they see. */
export function AccountForm({ of, data, error, busy, leave, save }: Props) {
	const [login, setLogin] = useState("");
	const [said, setSaid] = useState<Said>({
		name: of?.name ?? "",
		role: of?.role ?? "teacher",
		schools: of?.schools ?? [],
		teachers: of?.teachers ?? [],
	});
	const set = (change: Partial<Said>) => setSaid((before) => ({ ...before, ...change }));
	const complete = said.name.trim() && (of || login.trim());
	function submit(event: FormEvent): void {
		event.preventDefault();
		save(login.trim(), said);
	}
	return (
		<form
			aria-label={of ? `Change ${of.name}` : "Invite somebody"}
			onSubmit={submit}
			className="flex flex-col gap-3 rounded border border-line p-4"
		>
			<h2 className="font-bold">{of ? `${of.name}, ${of.login}` : "Invite somebody"}</h2>
			<LabelField label="Name" width="w-full" value={said.name} save={(name) => set({ name })} />
			{!of && <LabelField label="Login" width="w-full" value={login} save={setLogin} />}
			<label className="block">
				<span className="block text-[13px] font-semibold">Role</span>
				<select
					className="select select-sm w-full"
					value={said.role}
					onChange={(event) => set({ role: event.target.value })}
				>
					{data.roles.map((role) => (
						<option key={role} value={role}>
							{roleName(role)}
						</option>
					))}
				</select>
				<span className="mt-1 block text-[13px] text-muted">{HINTS[said.role]}</span>
			</label>
			{said.role === "school_lead" && (
				<Schools
					schools={data.schools}
					chosen={said.schools ?? []}
					choose={(schools) => set({ schools })}
				/>
			)}
			{["school_lead", "teacher"].includes(said.role) && (
				<TeacherPick
					name={said.name}
					schools={data.schools}
					chosen={said.teachers ?? []}
					choose={(teachers) => set({ teachers })}
				/>
			)}
			{error && <Trouble error={error} />}
			<div className="flex gap-2">
				<button type="submit" className="btn btn-primary btn-sm" disabled={busy || !complete}>
					{of ? "Save" : "Invite"}
				</button>
				<button type="button" className="btn btn-outline btn-sm" onClick={leave}>
					Leave it
				</button>
			</div>
		</form>
	);
}

interface SchoolsProps {
	schools: readonly { id: number; name: string }[];
	chosen: readonly number[];
	choose: (schools: number[]) => void;
}

function Schools({ schools, chosen, choose }: SchoolsProps) {
	return (
		<fieldset>
			<legend className="text-[13px] font-semibold">Schools</legend>
			<div className="grid max-h-44 grid-cols-2 gap-x-3 overflow-auto text-[13px]">
				{schools.map((school) => (
					<label key={school.id} className="flex items-baseline gap-2">
						<input
							type="checkbox"
							className="relative top-0.5 accent-(--color-ahead)"
							checked={chosen.includes(school.id)}
							onChange={(event) =>
								choose(
									event.target.checked
										? [...chosen, school.id]
										: chosen.filter((one) => one !== school.id),
								)
							}
						/>
						{school.name}
					</label>
				))}
			</div>
		</fieldset>
	);
}
