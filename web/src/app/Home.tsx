import { Navigate, useRouter } from "@tanstack/react-router";
import { useCatalogue } from "../api/catalogue";
import { useSession } from "../api/session";
import { Waiting } from "../ui/Waiting";

type Place = "/account" | "/published" | "/compare" | "/intake";

/** Where somebody begins: at what their role is for, and what the record has come to. */
export function Home() {
	const person = useSession().data;
	if (!person) return null;
	if (person.must_start_codes) return <Onward to="/account" />;
	if (!person.may.includes("ask")) return <Onward to="/published" />;
	if (!person.may.includes("intake")) return <Onward to="/compare" />;
	return <Begun />;
}

/** Whoever brings files in begins there while there is nothing to ask about. */
function Begun() {
	const kept = useCatalogue();
	if (kept.isPending) return <Waiting what="Opening Bridge Chart" />;
	return <Onward to={kept.data?.measures.length === 0 ? "/intake" : "/compare"} />;
}

function Onward({ to }: { to: Place }) {
	const router = useRouter();
	// Somebody who is on the way to another place, which is still loading, is not called back.
	if (router.latestLocation.pathname !== "/") return null;
	return <Navigate to={to} replace />;
}
