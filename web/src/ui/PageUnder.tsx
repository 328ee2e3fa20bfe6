import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";

interface Props {
	/** The page that it is reached from. */
	of: { to: "/setup" | "/intake"; name: string };
	title: string;
	about: ReactNode;
	children: ReactNode;
}

/** A page under another: the way back, its name, what it is for. */
export function PageUnder({ of, title, about, children }: Props) {
	return (
		<div className="print-flow h-full overflow-auto px-5 py-4">
			<p className="no-print text-[13px]">
				<Link to={of.to} className="font-semibold text-ahead hover:underline">
					{of.name}
				</Link>
			</p>
			<h1 className="text-xl font-bold">{title}</h1>
			<p className="mb-4 max-w-3xl text-muted">{about}</p>
			{children}
		</div>
	);
}

export const SETUP = { to: "/setup", name: "Setup" } as const;
