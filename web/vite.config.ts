import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
	plugins: [react(), tailwindcss()],
	server: { proxy: { "/api": process.env.BRIDGE_ADDRESS ?? "http://127.0.0.1:8400" } },
	// The manifest says which page loads what (tests/web/test_sizes.py).
	build: { manifest: true },
});
