import { Navigate } from "@tanstack/react-router";
import { useCatalogue } from "../api/catalogue";
import { useSession } from "../api/session";
import { Waiting } from "../ui/Waiting";

/** Where somebody begins: at what their role is for, and what the record has come to. */
export function Home() {
	const person = useSession().data;
	if (!person) return null;
	if (person.must_start_codes) return <Navigate to="/account" replace />;
	if (!person.may.includes("ask")) return <Navigate to="/published" replace />;
	if (!person.may.includes("intake")) return <Navigate to="/compare" replace />;
	return <Begun />;
}

/** Whoever brings files in begins there while there is nothing to ask about. */
function Begun() {
	const kept = useCatalogue();
	if (kept.isPending) return <Waiting what="Opening Bridge Chart" />;
	const nothing = kept.data?.measures.length === 0;
	return <Navigate to={nothing ? "/intake" : "/compare"} replace />;
}
