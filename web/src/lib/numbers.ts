import { inSigns } from "./words";

/** Numbers as people read them: true minus, thousands apart, no “−0”. */
export function figure(value: number | null | undefined, decimals = 1): string {
	if (value === null || value === undefined) return "";
	const plain = Math.abs(value).toLocaleString("en-GB", {
		minimumFractionDigits: decimals,
		maximumFractionDigits: decimals,
	});
	const text = inSigns(plain);
	return value < 0 && /[1-9]/.test(text) ? `−${text}` : text;
}

export function signed(value: number | null | undefined, decimals = 1): string {
	const text = figure(value, decimals);
	return text === "" || text.startsWith("−") ? text : `+${text}`;
}

export function count(n: number, one: string, many = `${one}s`): string {
	return `${figure(n, 0)} ${n === 1 ? one : many}`;
}

export function range(low: number | null | undefined, high: number | null | undefined): string {
	return low == null || high == null ? "" : `${figure(low)} to ${figure(high)}`;
}

/** A share as whole percent. */
export function percent(share: number | null | undefined): string {
	return share == null ? "" : `${figure(100 * share, 0)}%`;
}
