import { Link } from "@tanstack/react-router";
import { useSession } from "../../api/session";

interface Props {
	title: string;
	/** What brings it. */
	children: string;
}

/** A place of which nothing is kept yet: what it lacks, and where that is brought in. */
export function NothingYet({ title, children }: Props) {
	const session = useSession();
	return (
		<div className="mx-auto max-w-xl p-10">
			<h1 className="mb-2 text-xl font-bold">{title}</h1>
			<p className="mb-4 text-muted">{children}</p>
			{session.data?.may.includes("intake") ? (
				<Link to="/intake" className="btn btn-primary">
					Go to Intake
				</Link>
			) : (
				<p>The district's data lead brings files in.</p>
			)}
		</div>
	);
}
