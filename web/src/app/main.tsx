import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { ApiError } from "../api/client";
import { router } from "./router";
import "./theme.css";

const queries = new QueryClient({
	defaultOptions: {
		queries: {
			staleTime: 15_000,
			retry: (failures, error) =>
				failures < 2 && !(error instanceof ApiError && error.status >= 400 && error.status < 600),
		},
	},
});

const root = document.getElementById("root");
if (root)
	createRoot(root).render(
		<StrictMode>
			<QueryClientProvider client={queries}>
				<RouterProvider router={router} />
			</QueryClientProvider>
		</StrictMode>,
	);
