import { CssBaseline, ThemeProvider } from "@mui/material";
import { useMemo, useState } from "react";
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from "react-router";
import { ModeContext, storedMode, storeMode } from "../theme/mode";
import { makeTheme, type Mode } from "../theme/theme";
import { useMe } from "./api/hooks";
import { JobList } from "./jobs/JobList";
import { JobScreen } from "./JobScreen";
import { Look } from "./Look";
import { NewJob } from "./intake/NewJob";
import { Today } from "./jobs/Today";
import { ErrorNote, Waiting } from "./parts/notes";
import { Shell } from "./Shell";
import { HouseRules } from "./settings/HouseRules";
import { Mine } from "./settings/Mine";
import { People } from "./settings/People";
import { Profiles } from "./settings/Profiles";
import { Rates } from "./settings/Rates";
import { Settings } from "./settings/Settings";
import { ShopForm } from "./settings/ShopForm";
import { Register } from "./match/Register";
import { SignIn } from "./SignIn";

function Guarded() {
  const me = useMe();
  if (me.isPending) return <Waiting words="Opening the bench" />;
  if (!me.data) return <ErrorNote error={me.error} onRetry={() => void me.refetch()} />;
  if (!me.data.signed_in) return <SignIn demo={me.data.demo} />;
  return (
    <Shell me={me.data}>
      <Outlet />
    </Shell>
  );
}

// made once: what is open stays open while the theme changes
const router = createBrowserRouter([
  {
    element: <Guarded />,
    errorElement: <ErrorNote error={new Error("This page failed. Reload it; what was stored is safe.")} />,
    children: [
      { path: "/", element: <Navigate to="/today" replace /> },
      { path: "/today", element: <Today /> },
      { path: "/jobs", element: <JobList /> },
      { path: "/jobs/new", element: <NewJob /> },
      { path: "/jobs/:id", element: <JobScreen /> },
      { path: "/jobs/:id/:station", element: <JobScreen /> },
      {
        path: "/settings",
        element: <Settings />,
        children: [
          { index: true, element: <Navigate to="/settings/shop" replace /> },
          { path: "shop", element: <ShopForm /> },
          { path: "people", element: <People /> },
          { path: "acceptance", element: <Profiles /> },
          { path: "acceptance/:id", element: <Profiles /> },
          { path: "rules", element: <HouseRules /> },
          { path: "rates", element: <Rates /> },
          { path: "me", element: <Mine /> },
        ],
      },
      { path: "/parts", element: <Register /> },
      { path: "/look", element: <Look /> },
      {
        path: "*",
        element: <ErrorNote error={new Error("There is no such page. Go back to the list of jobs.")} />,
      },
    ],
  },
]);

export function App() {
  const [mode, setMode] = useState<Mode>(storedMode);
  const theme = useMemo(() => makeTheme(mode), [mode]);
  const choice = useMemo(
    () => ({
      mode,
      choose: (next: Mode) => {
        storeMode(next);
        setMode(next);
      },
    }),
    [mode],
  );
  return (
    <ModeContext value={choice}>
      <ThemeProvider theme={theme}>
        <CssBaseline />
        <RouterProvider router={router} />
      </ThemeProvider>
    </ModeContext>
  );
}
