import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { download } from "../api/client";

interface Props {
	/** What the button says. */
	words: string;
	/** Brings the file; `signal` takes it back. */
	bring: (signal: AbortSignal) => Promise<void>;
	className?: string;
	/** What went wrong is shown where it is asked for; nothing, once it went well. */
	fail: (error: unknown) => void;
}

/** Brings a file that takes a while; meanwhile the same button stops it. */
export function FileButton({ words, bring, fail, className = "btn btn-outline btn-sm" }: Props) {
	const stop = useRef<AbortController>(undefined);
	const make = useMutation({
		mutationFn: () => {
			stop.current = new AbortController();
			return bring(stop.current.signal);
		},
		onSuccess: () => fail(undefined),
		onError: (error) => fail(stop.current?.signal.aborted ? undefined : error),
	});
	return (
		<button
			type="button"
			className={className}
			onClick={() => (make.isPending ? stop.current?.abort() : make.mutate())}
		>
			{make.isPending ? `${words} … stop` : words}
		</button>
	);
}

interface PdfProps extends Omit<Props, "words" | "bring"> {
	/** A wide list takes larger sheets. */
	paper?: "A4" | "A3";
}

/** This page as PDF, as it stands in the address. */
export function PdfButton({ paper = "A4", ...props }: PdfProps) {
	const bring = (signal: AbortSignal) => {
		const { pathname, search } = window.location;
		return download(
			"/api/exports/pdf",
			{ page: pathname + search, paper },
			"bridge-chart.pdf",
			signal,
		);
	};
	return <FileButton words={paper === "A4" ? "PDF" : `PDF, ${paper}`} bring={bring} {...props} />;
}
