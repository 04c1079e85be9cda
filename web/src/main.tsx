import "@fontsource-variable/public-sans/wght.css";
import "./app/app.css";
import "./shared/ui/parts.css";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { isPassing, Refused } from "./api/client";
import { App } from "./app/App";
import { theme } from "./app/theme";

const queries = new QueryClient({
  defaultOptions: {
    // Asked whatever the browser thinks of its line: what cannot be reached is said, not waited for in silence.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      refetchOnWindowFocus: false,
      // What the server refused stays refused; what it could not answer is worth another try.
      retry: (count, error) => !(error instanceof Refused && error.status >= 400) && count < 2,
      // A server that was away is asked again, so that its notice goes when it is back.
      refetchInterval: (query) => (isPassing(query.state.error) ? 5000 : false),
    },
  },
});

createRoot(document.getElementById("root") as HTMLElement).render(
  <ThemeProvider theme={theme}>
    <QueryClientProvider client={queries}>
      <App />
    </QueryClientProvider>
  </ThemeProvider>,
);
