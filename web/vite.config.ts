import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Script and style lie packed beside themselves, so that the server need not pack them each time. */
function packed(): Plugin {
	return {
		name: "packed",
		apply: "build",
		closeBundle() {
			const folder = join(import.meta.dirname, "dist", "assets");
			for (const file of readdirSync(folder)) {
				if (!/\.(js|css)$/.test(file)) continue;
				const path = join(folder, file);
				writeFileSync(`${path}.gz`, gzipSync(readFileSync(path), { level: 9 }));
			}
		},
	};
}

export default defineConfig({
	plugins: [react(), tailwindcss(), packed()],
	server: { proxy: { "/api": process.env.BRIDGE_ADDRESS ?? "http://127.0.0.1:8400" } },
	// The manifest says which page loads what (tests/web/test_sizes.py).
	build: { manifest: true },
});
