import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { download } from "../api/client";

interface Props {
	className?: string;
	/** What went wrong is shown where it is asked for. */
	fail: (error: unknown) => void;
}

/** This page as PDF, as it stands in the address; it can be stopped while it is made. */
export function PdfButton({ className = "btn btn-outline btn-sm", fail }: Props) {
	const stop = useRef<AbortController>(undefined);
	const make = useMutation({
		mutationFn: () => {
			stop.current = new AbortController();
			const { pathname, search } = window.location;
			const page = { page: `${pathname}${search}` };
			return download("/api/exports/pdf", page, "bridge-chart.pdf", stop.current.signal);
		},
		onSuccess: () => fail(undefined),
		onError: (error) => fail(stop.current?.signal.aborted ? undefined : error),
	});
	if (make.isPending)
		return (
			<button type="button" className={className} onClick={() => stop.current?.abort()}>
				Drawing it … stop
			</button>
		);
	return (
		<button type="button" className={className} onClick={() => make.mutate()}>
			PDF
		</button>
	);
}
