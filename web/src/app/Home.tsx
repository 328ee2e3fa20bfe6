import { useQuery } from "@tanstack/react-query";
import { Navigate } from "@tanstack/react-router";
import { ApiError, client, unwrap } from "../api/client";
import { useSession } from "../api/session";
import { Waiting } from "../ui/Waiting";

/** Where somebody begins: at what their role is for, and what the record has come to. */
export function Home() {
	const person = useSession().data;
	const may = (action: string) => person?.may.includes(action) ?? false;
	const held = useQuery({
		queryKey: ["begun"],
		enabled: may("intake"),
		retry: false,
		queryFn: () => unwrap(client.GET("/api/catalogue")).then(() => true, nothingKept),
	});
	if (!person) return null;
	if (person.must_start_codes) return <Navigate to="/account" replace />;
	if (!may("ask")) return <Navigate to="/published" replace />;
	if (!may("intake")) return <Navigate to="/compare" replace />;
	if (held.isPending) return <Waiting what="Opening Bridge Chart" />;
	return <Navigate to={held.data === false ? "/intake" : "/compare"} replace />;
}

function nothingKept(error: unknown): boolean {
	if (error instanceof ApiError && error.status === 404) return false;
	throw error;
}
