import { CssBaseline, ThemeProvider } from "@mui/material";
import { lazy, Suspense, useMemo, useState, type ComponentType } from "react";
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from "react-router";
import { ModeContext, storedMode, storeMode } from "../theme/mode";
import { makeTheme, type Mode } from "../theme/theme";
import { useMe } from "./api/hooks";
import { JobList } from "./jobs/JobList";
import { Today } from "./jobs/Today";
import { ErrorNote, Waiting } from "./parts/notes";
import { Shell } from "./Shell";
import { SignIn } from "./SignIn";

// what is not needed to begin a day comes when it is asked for
const part = <K extends string>(load: () => Promise<Record<K, ComponentType>>, name: K) =>
  lazy(() => load().then((module) => ({ default: module[name] })));
const JobScreen = part(() => import("./JobScreen"), "JobScreen");
const NewJob = part(() => import("./intake/NewJob"), "NewJob");
const Procedures = part(() => import("./settings/Procedures"), "Procedures");
const HouseRules = part(() => import("./settings/HouseRules"), "HouseRules");
const Mine = part(() => import("./settings/Mine"), "Mine");
const People = part(() => import("./settings/People"), "People");
const Profiles = part(() => import("./settings/Profiles"), "Profiles");
const Rates = part(() => import("./settings/Rates"), "Rates");
const Settings = part(() => import("./settings/Settings"), "Settings");
const ShopForm = part(() => import("./settings/ShopForm"), "ShopForm");
const Codes = part(() => import("./registers/Codes"), "Codes");
const Register = part(() => import("./registers/Register"), "Register");
const Parts = part(() => import("./registers/Parts"), "Parts");
const Devices = part(() => import("./registers/Devices"), "Devices");
const Suppliers = part(() => import("./registers/Suppliers"), "Suppliers");
const Orders = part(() => import("./registers/Orders"), "Orders");
const Incoming = part(() => import("./registers/Incoming"), "Incoming");
const PhotoLook = part(() => import("./look/PhotoLook"), "PhotoLook");
const Look = part(() => import("./Look"), "Look");

function Guarded() {
  const me = useMe();
  if (me.isPending) return <Waiting words="Opening the bench" />;
  if (!me.data) return <ErrorNote error={me.error} onRetry={() => void me.refetch()} />;
  if (!me.data.signed_in) return <SignIn demo={me.data.demo} />;
  return (
    <Shell me={me.data}>
      <Suspense fallback={<Waiting words="Opening the page" />}>
        <Outlet />
      </Suspense>
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
      { path: "/jobs/:id/photos/:photo", element: <PhotoLook /> },
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
          { path: "procedures", element: <Procedures /> },
          { path: "rates", element: <Rates /> },
          { path: "me", element: <Mine /> },
        ],
      },
      {
        path: "/parts",
        element: <Parts />,
        children: [
          { index: true, element: <Navigate to="/parts/panels" replace /> },
          { path: "panels", element: <Register /> },
          { path: "devices", element: <Devices /> },
          { path: "suppliers", element: <Suppliers /> },
          { path: "orders", element: <Orders /> },
          { path: "incoming", element: <Incoming /> },
          { path: "codes", element: <Codes /> },
        ],
      },
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
