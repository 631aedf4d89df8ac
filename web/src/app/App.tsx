import CssBaseline from "@mui/material/CssBaseline";
import GlobalStyles from "@mui/material/GlobalStyles";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClientProvider } from "@tanstack/react-query";
import { SnackbarProvider } from "notistack";
import { lazy, Suspense, useMemo } from "react";
import { BrowserRouter, Route, Routes } from "react-router-dom";
import { queries } from "../api/queries";
import { useLook } from "../ui/look";
import { Waiting } from "../ui/Waiting";
import { themeOf } from "../theme";
import { SignIn } from "./SignIn";
import { useSession } from "./session";

const Shots = lazy(() => import("./Shots"));
const Desk = lazy(() => import("./Desk"));
const CharacterPage = lazy(() => import("./CharacterPage"));

function Pages() {
  const session = useSession();
  if (session.isPending) return <Waiting text="Opening Hame" />;
  if (session.isError) return <Waiting text={session.error.message} stopped onRetry={() => void session.refetch()} />;
  if (!session.data.person) return <SignIn session={session.data} />;
  return (
    <Suspense fallback={<Waiting text="Opening" />}>
      <Routes>
        <Route path="/" element={<Shots />} />
        <Route path="/productions/:productionId" element={<Shots />} />
        <Route path="/characters/:characterId" element={<CharacterPage />} />
        <Route path="/shots/:shotId" element={<Desk />} />
        <Route path="/shots/:shotId/takes/:takeId" element={<Desk />} />
        <Route path="*" element={<Waiting text="There is no page at this address." stopped />} />
      </Routes>
    </Suspense>
  );
}

export function App() {
  const desk = useLook((s) => s.desk);
  const theme = useMemo(() => themeOf(desk), [desk]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        {/* At the foot of the stage, where there is one: at its head are the tools. */}
        <GlobalStyles styles={{ ".messages": { bottom: "var(--messages, 14px) !important" } }} />
        <SnackbarProvider
          maxSnack={3}
          autoHideDuration={6000}
          anchorOrigin={{ vertical: "bottom", horizontal: "center" }}
          classes={{ containerRoot: "messages" }}
        >
          <BrowserRouter>
            <Pages />
          </BrowserRouter>
        </SnackbarProvider>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
