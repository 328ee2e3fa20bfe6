import { useNavigate, useRouter, useSearch } from "@tanstack/react-router";
import { useCallback } from "react";
import type { Asked } from "../model/address";
import type { Go } from "./place";

/** What the address of a place that asks says, and how it is changed. */
export function useAddress(place: "/awards" | "/compare" | "/progress" | "/tests"): {
	asked: Asked;
	go: Go;
} {
	const asked = useSearch({ from: place });
	const navigate = useNavigate({ from: place });
	const router = useRouter();
	const go: Go = useCallback(
		(change, how) => {
			// Somebody who is on the way to another place, which is still loading, is not called back.
			if (router.latestLocation.pathname !== place) return;
			navigate({ search: (before) => ({ ...before, ...change }), replace: how?.replace });
		},
		[navigate, router, place],
	);
	return { asked, go };
}
