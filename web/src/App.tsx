import { useQuery } from "@tanstack/react-query";
import { type ComponentType, lazy, Suspense, useEffect, useRef } from "react";
import { BrowserRouter, Navigate, Route, Routes, useLocation } from "react-router";
import type { Session } from "./api/client";
import { sessionOptions } from "./api/queries";
import { PeopleAndPin, SignIn } from "./places/signin/SignIn";
import { Frame } from "./ui/Frame";
import { useFaultsInView } from "./ui/faults";
import { useMoments } from "./ui/moments";
import { Dialog, Empty, Failure, Waiting } from "./ui/parts";
import { Screens } from "./ui/Screens";
import { useTabs } from "./ui/tabs";

/** What loads each screen: all are fetched when the first is there, so that a tablet that loses the network has every one. */
const screens: (() => Promise<unknown>)[] = [];

/** A screen whose script is fetched when it is first opened. */
function screen<Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) {
  screens.push(load);
  return lazy(async () => ({ default: (await load())[name] }));
}

const BenchPlace = screen(() => import("./places/bench/BenchPlace"), "BenchPlace");
const SimulatedTool = screen(() => import("./places/bench/SimulatedTool"), "SimulatedTool");
const AddBike = screen(() => import("./places/bikes/BikeForm"), "AddBike");
const EditBike = screen(() => import("./places/bikes/BikeForm"), "EditBike");
const BikePage = screen(() => import("./places/bikes/BikePage"), "BikePage");
const BikesPlace = screen(() => import("./places/bikes/BikesPlace"), "BikesPlace");
const CleanPage = screen(() => import("./places/bikes/CleanPage"), "CleanPage");
const LookAgain = screen(() => import("./places/bikes/CleanPage"), "LookAgain");
const CostPage = screen(() => import("./places/bikes/CostPage"), "CostPage");
const ReplacePage = screen(() => import("./places/bikes/ReplacePage"), "ReplacePage");
const TagPage = screen(() => import("./places/bikes/TagPage"), "TagPage");
const AddCustomer = screen(() => import("./places/customers/CustomerPage"), "AddCustomer");
const CustomerPage = screen(() => import("./places/customers/CustomerPage"), "CustomerPage");
const EditCustomer = screen(() => import("./places/customers/CustomerPage"), "EditCustomer");
const CustomersPlace = screen(() => import("./places/customers/CustomersPlace"), "CustomersPlace");
const DuePlace = screen(() => import("./places/due/DuePlace"), "DuePlace");
const GatewayPlace = screen(() => import("./places/due/GatewayPlace"), "GatewayPlace");
const MessagesPlace = screen(() => import("./places/due/MessagesPlace"), "MessagesPlace");
const FloorPlace = screen(() => import("./places/floor/FloorPlace"), "FloorPlace");
const JobPage = screen(() => import("./places/jobs/JobPage"), "JobPage");
const ReplanPage = screen(() => import("./places/jobs/JobPage"), "ReplanPage");
const ReportPage = screen(() => import("./places/jobs/ReportPage"), "ReportPage");
const TicketPage = screen(() => import("./places/jobs/TicketPage"), "TicketPage");
const RulesPlace = screen(() => import("./places/rules/RulesPlace"), "RulesPlace");
const TablesPlace = screen(() => import("./places/rules/TablesPlace"), "TablesPlace");
const AddTool = screen(() => import("./places/rules/ToolPage"), "AddTool");
const ToolPage = screen(() => import("./places/rules/ToolPage"), "ToolPage");
const ToolsPlace = screen(() => import("./places/rules/ToolsPlace"), "ToolsPlace");
const SizerPlace = screen(() => import("./places/sizer/SizerPlace"), "SizerPlace");
const BathsPlace = screen(() => import("./places/stores/BathsPlace"), "BathsPlace");
const FluidsPlace = screen(() => import("./places/stores/FluidsPlace"), "FluidsPlace");
const StoresPlace = screen(() => import("./places/stores/StoresPlace"), "StoresPlace");
const WastePlace = screen(() => import("./places/stores/WastePlace"), "WastePlace");

/** Fetches every screen once the page has nothing better to do. */
function useEveryScreen(): void {
  useEffect(() => {
    const fetchAll = () => {
      for (const load of screens) load().catch(() => {}); // it is asked for again when it is opened
    };
    const timer = window.setTimeout(fetchAll, 1500);
    return () => window.clearTimeout(timer);
  }, []);
}

export default function Root() {
  return (
    <BrowserRouter>
      <App />
    </BrowserRouter>
  );
}

function App() {
  const session = useQuery(sessionOptions);
  useFaultsInView();
  useTabs();
  useMoments();
  useEveryScreen();
  const at = useLocation().pathname;
  const alone = at.startsWith("/simulated-tool/"); // a window of its own, without the frame
  // When a session ends while somebody works, the page stays as it is under the sign-in, so that
  // nothing typed is lost.
  const last = useRef<Session | null>(null);
  useEffect(() => {
    if (session.data) last.current = session.data;
  }, [session.data]);

  if (session.isPending) return <div className="h-full bg-frame" />;
  if (session.isError && session.data === undefined)
    return (
      <div className="p-6">
        <div className="panel p-4">
          <Failure error={session.error} again={() => session.refetch()} />
        </div>
      </div>
    );
  const known = session.data ?? last.current;
  if (!known) return <SignIn />;
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
          <Routes>
            <Route path="/" element={<Navigate to="/floor" replace />} />
            <Route path="/floor" element={<FloorPlace />} />
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
            <Route path="/bench" element={<BenchPlace />} />
            <Route path="/customers" element={<CustomersPlace />} />
            <Route path="/customers/new" element={<AddCustomer />} />
            <Route path="/customers/:id" element={<CustomerPage />} />
            <Route path="/customers/:id/edit" element={<EditCustomer />} />
            <Route path="/bikes/:tag/replace" element={<ReplacePage />} />
            <Route path="/bikes/:tag/clean" element={<CleanPage />} />
            <Route path="/sizer" element={<SizerPlace />} />
            <Route path="/due" element={<DuePlace />} />
            <Route path="/due/messages" element={<MessagesPlace />} />
            <Route path="/due/gateway" element={<GatewayPlace />} />
            <Route path="/stores" element={<StoresPlace />} />
            <Route path="/stores/fluids" element={<FluidsPlace />} />
            <Route path="/stores/baths" element={<BathsPlace />} />
            <Route path="/stores/waste" element={<WastePlace />} />
            <Route path="/rules" element={<RulesPlace />} />
            <Route path="/rules/tools" element={<ToolsPlace />} />
            <Route path="/rules/tables" element={<TablesPlace />} />
            <Route path="/rules/tools/new" element={<AddTool />} />
            <Route path="/rules/tools/:id" element={<ToolPage />} />
            <Route path="*" element={<Empty title="There is nothing at this address." />} />
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
