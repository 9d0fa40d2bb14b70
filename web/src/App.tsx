import { useQuery, useQueryClient } from "@tanstack/react-query";
import { PersistQueryClientProvider } from "@tanstack/react-query-persist-client";
import { type ComponentType, lazy, Suspense, useEffect, useRef, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes, useLocation } from "react-router";
import { type Session, sendThrough } from "./api/client";
import { sessionOptions } from "./api/queries";
import { forgetHeld, keepInMind, keepReady, keepsOf, keptFor, persister, showKeptWhenAway } from "./outbox/keeping";
import { askWhoIsHere } from "./outbox/making";
import { openOutbox, send } from "./outbox/outbox";
import { settleAsKept, watchSession, withoutPIN } from "./outbox/people";
import { onSignedOutFromAfar } from "./outbox/sending";
import { install, screenOpened } from "./outbox/version";
import { PeopleAndPin, SignIn } from "./screens/signin/SignIn";
import { Frame } from "./ui/Frame";
import { useFaultsInView } from "./ui/faults";
import { Heading } from "./ui/Heading";
import { forgetDrafts } from "./ui/kept";
import { useMoments } from "./ui/moments";
import { Dialog, Empty, Waiting } from "./ui/parts";
import { Screens } from "./ui/Screens";
import { useTabs } from "./ui/tabs";

/** What loads each screen: all are fetched when the first is there, so that a tablet that loses the network has every one. */
const screens: (() => Promise<unknown>)[] = [];

/** A screen whose script is fetched when it is first opened. */
function screen<Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) {
  screens.push(load);
  return lazy(async () => ({ default: (await load())[name] }));
}

const BenchPlace = screen(() => import("./screens/bench/BenchPlace"), "BenchPlace");
const SimulatedTool = screen(() => import("./screens/bench/SimulatedTool"), "SimulatedTool");
const AddBike = screen(() => import("./screens/bikes/BikeForm"), "AddBike");
const EditBike = screen(() => import("./screens/bikes/BikeForm"), "EditBike");
const BikePage = screen(() => import("./screens/bikes/BikePage"), "BikePage");
const BikesPlace = screen(() => import("./screens/bikes/BikesPlace"), "BikesPlace");
const CleanPage = screen(() => import("./screens/bikes/CleanPage"), "CleanPage");
const LookAgain = screen(() => import("./screens/bikes/CleanPage"), "LookAgain");
const CostPage = screen(() => import("./screens/bikes/CostPage"), "CostPage");
const ReplacePage = screen(() => import("./screens/bikes/ReplacePage"), "ReplacePage");
const TagPage = screen(() => import("./screens/bikes/TagPage"), "TagPage");
const AddCustomer = screen(() => import("./screens/customers/CustomerPage"), "AddCustomer");
const CustomerPage = screen(() => import("./screens/customers/CustomerPage"), "CustomerPage");
const EditCustomer = screen(() => import("./screens/customers/CustomerPage"), "EditCustomer");
const CustomersPlace = screen(() => import("./screens/customers/CustomersPlace"), "CustomersPlace");
const DuePlace = screen(() => import("./screens/due/DuePlace"), "DuePlace");
const GatewayPlace = screen(() => import("./screens/due/GatewayPlace"), "GatewayPlace");
const MessagesPlace = screen(() => import("./screens/due/MessagesPlace"), "MessagesPlace");
const FloorPlace = screen(() => import("./screens/floor/FloorPlace"), "FloorPlace");
const SheetPage = screen(() => import("./screens/floor/SheetPage"), "SheetPage");
const JobPage = screen(() => import("./screens/jobs/JobPage"), "JobPage");
const ReplanPage = screen(() => import("./screens/jobs/JobPage"), "ReplanPage");
const ReportPage = screen(() => import("./screens/jobs/ReportPage"), "ReportPage");
const TicketPage = screen(() => import("./screens/jobs/TicketPage"), "TicketPage");
const RulesPlace = screen(() => import("./screens/rules/RulesPlace"), "RulesPlace");
const SettingsLayout = screen(() => import("./screens/rules/SettingsLayout"), "SettingsLayout");
const SettingsIndex = screen(() => import("./screens/rules/SettingsLayout"), "SettingsIndex");
const TablesPlace = screen(() => import("./screens/rules/TablesPlace"), "TablesPlace");
const PeoplePlace = screen(() => import("./screens/rules/PeoplePlace"), "PeoplePlace");
const DevicesPlace = screen(() => import("./screens/rules/DevicesPlace"), "DevicesPlace");
const ChangesPlace = screen(() => import("./screens/rules/ChangesPlace"), "ChangesPlace");
const Ways = screen(() => import("./screens/rules/Ways"), "Ways");
const PermissionsPlace = screen(() => import("./screens/rules/PermissionsPlace"), "PermissionsPlace");
const AddTool = screen(() => import("./screens/rules/ToolPage"), "AddTool");
const ToolPage = screen(() => import("./screens/rules/ToolPage"), "ToolPage");
const ToolsPlace = screen(() => import("./screens/rules/ToolsPlace"), "ToolsPlace");
const UnsentPlace = screen(() => import("./screens/unsent/UnsentPlace"), "UnsentPlace");
const WaitingPlace = screen(() => import("./screens/waiting/WaitingPlace"), "WaitingPlace");
const SetUpPlace = screen(() => import("./screens/setup/SetUpPlace"), "SetUpPlace");
const SizerPlace = screen(() => import("./screens/sizer/SizerPlace"), "SizerPlace");
const BathsPlace = screen(() => import("./screens/stores/BathsPlace"), "BathsPlace");
const FluidsPlace = screen(() => import("./screens/stores/FluidsPlace"), "FluidsPlace");
const StoresPlace = screen(() => import("./screens/stores/StoresPlace"), "StoresPlace");
const WastePlace = screen(() => import("./screens/stores/WastePlace"), "WastePlace");

/** Whether this device asks to be sent little. */
const sparing = () => (navigator as { connection?: { saveData?: boolean } }).connection?.saveData === true;

/** Stands beside the first screen, and fetches every other as soon as that one is there. */
function EveryScreen() {
  useEffect(() => {
    if (sparing()) return;
    for (const load of screens) load().catch(() => {}); // it is asked for again when it is opened
  }, []);
  return null;
}

/** The shop's pages: what is written in them is kept on the device first, and what they show stays there for a while. */
export default function Root() {
  const client = useQueryClient();
  const [keeping] = useState(() => {
    sendThrough(send);
    watchSession();
    askWhoIsHere(() => withoutPIN() !== undefined);
    keepInMind(client);
    install(client);
    return {
      persister: persister(),
      maxAge: keptFor,
      buster: __CONTRACT__,
      dehydrateOptions: { shouldDehydrateQuery: keepsOf },
    };
  });
  useEffect(() => {
    onSignedOutFromAfar(async () => {
      forgetHeld();
      forgetDrafts();
      client.removeQueries({ predicate: (q) => q.queryKey[0] !== "session" && q.queryKey[0] !== "people" });
      client.setQueryData(sessionOptions.queryKey, null);
    });
    const ends = [openOutbox(client), showKeptWhenAway(client)];
    return () => {
      for (const end of ends) end();
    };
  }, [client]);
  // What was kept is shown at once, and asked for anew.
  const restored = async () => {
    await settleAsKept(client);
    await client.invalidateQueries({ refetchType: "none" });
  };
  return (
    <PersistQueryClientProvider client={client} persistOptions={keeping} onSuccess={restored}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </PersistQueryClientProvider>
  );
}

/** What places were called before: an address that somebody kept goes on. */
const moved: Record<string, string> = {
  "/floor": "/today",
  "/bench": "/measure",
  "/sizer": "/chain-length",
  "/stores": "/stock",
  "/rules": "/settings",
};

function Moved() {
  const { pathname, search } = useLocation();
  const old = Object.keys(moved).find((o) => pathname === o || pathname.startsWith(`${o}/`)) ?? "";
  return <Navigate to={`${moved[old] ?? ""}${pathname.slice(old.length)}${search}`} replace />;
}

function Nowhere() {
  return (
    <>
      <Heading unseen>Nothing here</Heading>
      <Empty title="There is nothing at this address." />
    </>
  );
}

function App() {
  const session = useQuery(sessionOptions);
  useFaultsInView();
  useTabs();
  useMoments();
  const at = useLocation().pathname;
  const client = useQueryClient();
  const person = session.data?.person.id;
  useEffect(() => (person ? keepReady(client) : undefined), [client, person]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is told of each screen
  useEffect(() => screenOpened(client), [at]);
  const alone = at.startsWith("/simulated-tool/"); // a window of its own, without the frame
  // When a session ends while somebody works, the page stays as it is under the sign-in, so that
  // nothing typed is lost.
  const last = useRef<Session | null>(null);
  useEffect(() => {
    if (session.data) last.current = session.data;
  }, [session.data]);

  if (session.isPending) return <div className="h-full bg-frame" />;
  const known = session.data ?? last.current;
  if (!known)
    return (
      <SignIn away={session.isError ? { error: session.error, again: () => void session.refetch() } : undefined} />
    );
  if (alone)
    return (
      <Suspense fallback={<Waiting what="the tool" />}>
        <Routes>
          <Route path="/simulated-tool/:channel" element={<SimulatedTool />} />
        </Routes>
      </Suspense>
    );
  return (
    <Frame session={known} signedOut={!session.data}>
      <Screens at={at}>
        <Suspense fallback={<Waiting what="the screen" />}>
          <EveryScreen />
          <Routes>
            <Route path="/" element={<Navigate to="/today" replace />} />
            <Route path="/today" element={<FloorPlace />} />
            <Route path="/today/sheet" element={<SheetPage />} />
            <Route path="/jobs/:id" element={<JobPage />} />
            <Route path="/jobs/:id/intake" element={<LookAgain />} />
            <Route path="/jobs/:id/plan" element={<ReplanPage />} />
            <Route path="/jobs/:id/report" element={<ReportPage />} />
            <Route path="/jobs/:id/ticket" element={<TicketPage />} />
            <Route path="/bikes" element={<BikesPlace />} />
            <Route path="/bikes/new" element={<AddBike />} />
            <Route path="/bikes/:tag" element={<BikePage />} />
            <Route path="/bikes/:tag/edit" element={<EditBike />} />
            <Route path="/bikes/:tag/cost" element={<CostPage />} />
            <Route path="/bikes/:tag/print" element={<TagPage />} />
            <Route path="/measure" element={<BenchPlace />} />
            <Route path="/customers" element={<CustomersPlace />} />
            <Route path="/customers/new" element={<AddCustomer />} />
            <Route path="/customers/:id" element={<CustomerPage />} />
            <Route path="/customers/:id/edit" element={<EditCustomer />} />
            <Route path="/bikes/:tag/replace" element={<ReplacePage />} />
            <Route path="/bikes/:tag/clean" element={<CleanPage />} />
            <Route path="/chain-length" element={<SizerPlace />} />
            <Route path="/due" element={<DuePlace />} />
            <Route path="/due/messages" element={<MessagesPlace />} />
            <Route path="/due/gateway" element={<GatewayPlace />} />
            <Route path="/stock" element={<StoresPlace />} />
            <Route path="/stock/fluids" element={<FluidsPlace />} />
            <Route path="/stock/baths" element={<BathsPlace />} />
            <Route path="/stock/waste" element={<WastePlace />} />
            <Route path="/waiting" element={<WaitingPlace />} />
            <Route path="/unsent" element={<UnsentPlace />} />
            <Route path="/set-up/:step?" element={<SetUpPlace />} />
            <Route path="/settings" element={<SettingsLayout />}>
              <Route index element={<SettingsIndex />} />
              <Route path=":part" element={<RulesPlace />} />
              <Route path="stand" element={<Ways />} />
              <Route path="history" element={<ChangesPlace />} />
              <Route path="tables" element={<TablesPlace />} />
              <Route path="people" element={<PeoplePlace />} />
              <Route path="devices" element={<DevicesPlace />} />
              <Route path="permissions" element={<PermissionsPlace />} />
              <Route path="tools" element={<ToolsPlace />} />
              <Route path="tools/new" element={<AddTool />} />
              <Route path="tools/:id" element={<ToolPage />} />
            </Route>
            {Object.keys(moved).map((old) => (
              <Route key={old} path={`${old}/*`} element={<Moved />} />
            ))}
            <Route path="*" element={<Nowhere />} />
          </Routes>
        </Suspense>
      </Screens>
      {!session.data && (
        <Dialog title="Signed out meanwhile" close={() => {}}>
          <p>Sign in to go on. What you typed is still here.</p>
          <PeopleAndPin />
        </Dialog>
      )}
    </Frame>
  );
}
