import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { Waiting } from "../../ui/Waiting";

const PAGES = import.meta.glob<string>("../../../../docs/methods/*.md", {
	query: "?raw",
	import: "default",
});

/** A page of docs/methods, as it stands in the project; links between pages stay inside. */
async function rendered(page: string): Promise<string | null> {
	const load = PAGES[`../../../../docs/methods/${page}.md`];
	if (!load) return null;
	const [{ marked }, text] = await Promise.all([import("marked"), load()]);
	const inside = text.replaceAll(/\]\(([a-z-]+)\.md\)/g, "](/methods/$1)");
	return marked.parse(inside, { async: false });
}

export function MethodPage() {
	const { page } = useParams({ from: "/methods/$page" });
	const found = useQuery({ queryKey: ["method", page], queryFn: () => rendered(page) });
	if (found.isPending) return <Waiting what="Opening the page" />;
	return (
		<div className="h-full overflow-auto">
			<article className="method mx-auto max-w-[720px] px-6 py-6">
				{found.data ? (
					// biome-ignore lint/security/noDangerouslySetInnerHtml: the project's own pages, built in
					<div dangerouslySetInnerHTML={{ __html: found.data }} />
				) : (
					<p>There is no such page.</p>
				)}
				<p className="no-print mt-6 flex gap-6">
					<Link to="/compare" className="font-semibold text-ahead hover:underline">
						Back to Compare
					</Link>
					{page !== "README" && (
						<Link
							to="/methods/$page"
							params={{ page: "README" }}
							className="font-semibold text-ahead hover:underline"
						>
							All methods
						</Link>
					)}
				</p>
			</article>
		</div>
	);
}
