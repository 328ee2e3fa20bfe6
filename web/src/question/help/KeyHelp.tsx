import { Link } from "@tanstack/react-router";
import { Modal } from "../../ui/Modal";
import { termsOf } from "./words";

const KEYS = [
	["q", "to the question"],
	["/", "find a student, a class, a test"],
	["1 – 7", "the lenses, from left to right"],
	["t", "the numbers, and back"],
	["d", "everything that went into the method"],
	["[ ]", "previous and next split"],
	["Enter", "open the mark that has the focus"],
	["Esc", "close"],
	["?", "these keys"],
] as const;

interface Props {
	open: boolean;
	setOpen: (open: boolean) => void;
	/** Walk through the screen again. */
	walk: () => void;
}

/** All keys, and what every term means. */
export function KeyHelp({ open, setOpen, walk }: Props) {
	return (
		<Modal title="All keys and words" open={open} setOpen={setOpen} width={760}>
			{(close) => <Keys close={close} walk={walk} />}
		</Modal>
	);
}

function Keys({ close, walk }: { close: () => void; walk: () => void }) {
	return (
		<>
			<div className="grid grid-cols-[290px_1fr] gap-6">
				<div>
					<h2 className="mb-2 font-bold">Keys</h2>
					<dl className="mb-3 grid grid-cols-[80px_1fr] gap-y-1">
						{KEYS.map(([key, what]) => (
							<div key={key} className="contents">
								<dt>
									<kbd className="rounded border border-line bg-wash px-1.5">{key}</kbd>
								</dt>
								<dd>{what}</dd>
							</div>
						))}
					</dl>
				</div>
				<div>
					<h2 className="mb-2 font-bold">Words</h2>
					<dl className="mb-3 grid grid-cols-[130px_1fr] gap-x-3 gap-y-1 text-[13px]">
						{termsOf().map((word) => (
							<div key={word.term} className="contents">
								<dt className="font-semibold">{word.term}</dt>
								<dd>
									{word.meaning}{" "}
									<Link
										to="/methods/$page"
										params={{ page: word.page }}
										className="text-ahead underline"
										aria-label={`More about ${word.term}`}
									>
										more
									</Link>
								</dd>
							</div>
						))}
					</dl>
				</div>
			</div>
			<button type="button" className="btn btn-sm" onClick={close}>
				Close
			</button>
			<button
				type="button"
				className="btn btn-sm ml-2"
				onClick={() => {
					close();
					walk();
				}}
			>
				Walk me through this screen
			</button>
		</>
	);
}
