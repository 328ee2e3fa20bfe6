import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Question = Schemas["Question"];
export type Answer = Schemas["Answer"];
export type Catalogue = Schemas["Catalogue"];
export type Condition = NonNullable<Schemas["Who"]["all"]>[number];
export type Measure = Schemas["Measure"];
export type Derived = Schemas["Derived"];
export type Dimension = NonNullable<Question["split"]>[number];
export type Row = Schemas["Row"];
/** What a mark adds to its question to list its students; the server says it, and reads it. */
export type Open = Schemas["Open"];
export type DraftState = Schemas["DraftState"];
export type IntakeSettings = Schemas["IntakeSettings"];
export type Finding = Schemas["Finding"];

/** What every failed call throws: what happened, what was kept safe, what to do. */
export class ApiError extends Error {
	constructor(
		readonly code: string,
		message: string,
		readonly kept: string,
		readonly next: string,
		readonly status: number,
		/** The changes that make a question one that is answered, where the server knows some. */
		readonly instead?: Partial<Question>,
	) {
		super(message);
	}
}

export const client = createClient<paths>({ baseUrl: "/" });

interface ErrorText {
	code: string;
	message: string;
	kept: string;
	next: string;
	details: { instead?: Partial<Question> };
}

function asError(body: unknown, status: number): ApiError {
	const error = (body as { error?: Partial<ErrorText> } | undefined)?.error;
	return new ApiError(
		error?.code ?? "error",
		error?.message ?? "The server did not answer.",
		error?.kept ?? "",
		error?.next ?? "Try again in a moment.",
		status,
		error?.details?.instead,
	);
}

/** The data of a call, or an ApiError. */
export async function unwrap<T>(
	call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
	const { data, error, response } = await call.catch(() => {
		throw asError(undefined, 0);
	});
	if (!response.ok || data === undefined) throw asError(error, response.status);
	return data;
}

async function posted(path: string, body: BodyInit, more: RequestInit = {}): Promise<Response> {
	const response = await fetch(path, { method: "POST", body, ...more }).catch(() => {
		throw asError(undefined, 0);
	});
	if (!response.ok) throw asError(await response.json().catch(() => undefined), response.status);
	return response;
}

/** What the server finds wrong with a question that fits no schema; null if nothing. */
export async function whyRefused(question: unknown): Promise<ApiError | null> {
	const headers = { "Content-Type": "application/json" };
	const body = JSON.stringify(question);
	const response = await fetch("/api/answers", { method: "POST", body, headers });
	return response.ok ? null : asError(await response.json(), response.status);
}

export type FileKind = DraftState["kind"];

/** Sends a file; `sent` is told what share of it has gone. (`fetch` does not tell.) */
export function uploadDraft(
	kind: FileKind,
	file: File,
	sent: (share: number) => void = () => {},
): Promise<DraftState> {
	const form = new FormData();
	form.append("kind", kind);
	form.append("file", file);
	return new Promise((resolve, reject) => {
		const request = new XMLHttpRequest();
		request.open("POST", "/api/drafts");
		request.responseType = "json";
		request.upload.onprogress = (event) => sent(event.loaded / Math.max(event.total, 1));
		request.onload = () =>
			request.status < 300
				? resolve(request.response)
				: reject(asError(request.response, request.status));
		request.onerror = () => reject(asError(undefined, 0));
		request.send(form);
	});
}

/** A file that the server makes, handed to the browser's downloads. */
/** Attach a paper, a mark scheme or a report to a sitting. */
export async function attach(
	sitting: number,
	kind: Schemas["Attachment"]["kind"],
	file: File,
): Promise<void> {
	const form = new FormData();
	form.append("sitting", String(sitting));
	form.append("kind", kind);
	form.append("file", file);
	await posted("/api/attachments", form);
}

export async function download(
	path: string,
	asked: unknown,
	name: string,
	signal?: AbortSignal,
): Promise<void> {
	const headers = { "Content-Type": "application/json" };
	const response = await posted(path, JSON.stringify(asked), { headers, signal });
	const link = document.createElement("a");
	link.href = URL.createObjectURL(await response.blob());
	link.download = name;
	link.click();
	URL.revokeObjectURL(link.href);
}

/** The answer's numbers as a file. */
export async function downloadCsv(question: Question, signal?: AbortSignal): Promise<void> {
	const name = `bridge-chart-${question.show ?? "spans"}.csv`;
	await download("/api/exports/csv", question, name, signal);
}

/** What the columns of that file are, as CSV on the Web describes them. */
export async function downloadDictionary(question: Question, signal?: AbortSignal): Promise<void> {
	const name = `bridge-chart-${question.show ?? "spans"}.csv-metadata.json`;
	await download("/api/exports/csv-metadata", question, name, signal);
}

/** The answer as a workbook: its notes, figures, signs and a chart of spans. */
export async function downloadWorkbook(question: Question, signal?: AbortSignal): Promise<void> {
	const name = `bridge-chart-${question.show ?? "spans"}.xlsx`;
	await download("/api/exports/workbook", question, name, signal);
}

/** The students of a list and its results as a workbook that comes back through Intake. */
export async function downloadGrid(
	question: Question,
	title: string,
	signal?: AbortSignal,
): Promise<void> {
	const spec = await unwrap(client.POST("/api/lists/grid", { body: { question, title }, signal }));
	await download("/api/grid/file", { ...spec, format: "xlsx" }, "grid.xlsx", signal);
}

/** The same with small numbers hidden, so that none can be worked out; what to hide takes thought. */
export async function downloadForOutside(question: Question, signal: AbortSignal): Promise<void> {
	const name = `bridge-chart-${question.show ?? "spans"}-outside.csv`;
	await download("/api/exports/csv?outside=true", question, name, signal);
}
