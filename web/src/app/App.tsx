import CssBaseline from "@mui/material/CssBaseline";
import GlobalStyles from "@mui/material/GlobalStyles";
import { ThemeProvider } from "@mui/material/styles";
import useMediaQuery from "@mui/material/useMediaQuery";
import { QueryClientProvider } from "@tanstack/react-query";
import { Suspense, useMemo } from "react";
import { BrowserRouter, Route, Routes } from "react-router-dom";
import { queries } from "../api/queries";
import { useLook } from "../ui/look";
import { later } from "../ui/later";
import { useMessages } from "../ui/messages";
import { Waiting } from "../ui/Waiting";
import { themeOf } from "../theme";
import { useSession } from "./session";

const Shots = later(() => import("./Shots").then((m) => m.default));
const Desk = later(() => import("./Desk").then((m) => m.default));
const SignIn = later(() => import("./SignIn").then((m) => m.SignIn));
const Messages = later(() => import("../ui/Messages").then((m) => m.Messages));
const CharacterPage = later(() => import("./CharacterPage").then((m) => m.default));

function Pages() {
  const session = useSession();
  if (session.isPending) return <Waiting text="Opening Hame" />;
  if (session.isError) return <Waiting text={session.error.message} stopped onRetry={() => void session.refetch()} />;
  return (
    <Suspense fallback={<Waiting text="Opening" />}>
      {session.data.person ? <Places /> : <SignIn session={session.data} />}
    </Suspense>
  );
}

function Places() {
  return (
    <Routes>
      <Route path="/" element={<Shots />} />
      <Route path="/productions/:productionId" element={<Shots />} />
      <Route path="/characters/:characterId" element={<CharacterPage />} />
      <Route path="/shots/:shotId" element={<Desk />} />
      <Route path="/shots/:shotId/takes/:takeId" element={<Desk />} />
      <Route path="*" element={<Waiting text="There is no page at this address." stopped />} />
    </Routes>
  );
}

export function App() {
  const said = useMessages((s) => s.wanted);
  const desk = useLook((s) => s.desk);
  const still = useMediaQuery("(prefers-reduced-motion: reduce)", { noSsr: true });
  const theme = useMemo(() => themeOf(desk, still), [desk, still]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        <GlobalStyles
          styles={{
            ".messages": { bottom: "var(--messages, 14px) !important", left: "72px !important" },
            ".messages .notistack-Snackbar": { maxWidth: 372 },
          }}
        />
        <BrowserRouter>
          <Pages />
        </BrowserRouter>
        <Suspense>{said && <Messages />}</Suspense>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
