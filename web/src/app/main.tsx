import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { ApiError } from "../api/client";
import { followSystem } from "./appearance";
import { router } from "./router";
import "./theme.css";

/** The session is over: the page asks who it is, where it stands, and then goes on. */
function over(error: unknown): void {
	if (error instanceof ApiError && error.status === 401) queries.setQueryData(["session"], null);
}

const queries: QueryClient = new QueryClient({
	queryCache: new QueryCache({ onError: over }),
	mutationCache: new MutationCache({ onError: over }),
	defaultOptions: {
		queries: {
			staleTime: 15_000,
			retry: (failures, error) =>
				failures < 2 && !(error instanceof ApiError && error.status >= 400 && error.status < 600),
		},
	},
});

followSystem();
const root = document.getElementById("root");
if (root)
	createRoot(root).render(
		<StrictMode>
			<QueryClientProvider client={queries}>
				<RouterProvider router={router} />
			</QueryClientProvider>
		</StrictMode>,
	);
