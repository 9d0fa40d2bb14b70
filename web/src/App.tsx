import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import type { Session } from "./api/client";
import { sessionOptions } from "./api/queries";
import { BenchPlace } from "./places/bench/BenchPlace";
import { SimulatedTool } from "./places/bench/SimulatedTool";
import { AddBike, EditBike } from "./places/bikes/BikeForm";
import { BikePage } from "./places/bikes/BikePage";
import { BikesPlace } from "./places/bikes/BikesPlace";
import { CleanPage, LookAgain } from "./places/bikes/CleanPage";
import { CostPage } from "./places/bikes/CostPage";
import { ReplacePage } from "./places/bikes/ReplacePage";
import { TagPage } from "./places/bikes/TagPage";
import { AddCustomer, CustomerPage, EditCustomer } from "./places/customers/CustomerPage";
import { CustomersPlace } from "./places/customers/CustomersPlace";
import { DuePlace } from "./places/due/DuePlace";
import { GatewayPlace } from "./places/due/GatewayPlace";
import { MessagesPlace } from "./places/due/MessagesPlace";
import { FloorPlace } from "./places/floor/FloorPlace";
import { JobPage, ReplanPage } from "./places/jobs/JobPage";
import { ReportPage } from "./places/jobs/ReportPage";
import { TicketPage } from "./places/jobs/TicketPage";
import { OwnerPage } from "./places/owner/OwnerPage";
import { RulesPlace } from "./places/rules/RulesPlace";
import { TablesPlace } from "./places/rules/TablesPlace";
import { AddTool, ToolPage } from "./places/rules/ToolPage";
import { ToolsPlace } from "./places/rules/ToolsPlace";
import { PeopleAndPin, SignIn } from "./places/signin/SignIn";
import { SizerPlace } from "./places/sizer/SizerPlace";
import { BathsPlace } from "./places/stores/BathsPlace";
import { FluidsPlace } from "./places/stores/FluidsPlace";
import { StoresPlace } from "./places/stores/StoresPlace";
import { WastePlace } from "./places/stores/WastePlace";
import { Frame } from "./ui/Frame";
import { useFaultsInView } from "./ui/faults";
import { useMoments } from "./ui/moments";
import { Dialog, Empty, Failure } from "./ui/parts";
import { useTabs } from "./ui/tabs";

export function App() {
  const session = useQuery(sessionOptions);
  useFaultsInView();
  useTabs();
  useMoments();
  const alone = useLocation().pathname.startsWith("/simulated-tool/"); // a window of its own, without the frame
  const ofOwner = useLocation().pathname.startsWith("/o/"); // for whoever has the link, signed in or not
  // When a session ends while somebody works, the page stays as it is under the sign-in, so that
  // nothing typed is lost.
  const last = useRef<Session | null>(null);
  useEffect(() => {
    if (session.data) last.current = session.data;
  }, [session.data]);

  if (ofOwner)
    return (
      <Routes>
        <Route path="/o/:token" element={<OwnerPage />} />
      </Routes>
    );
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
      <Routes>
        <Route path="/simulated-tool/:channel" element={<SimulatedTool />} />
      </Routes>
    );
  return (
    <Frame session={known} signedOut={!session.data}>
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
      {!session.data && (
        <Dialog title="Signed out meanwhile" close={() => {}}>
          <p>Sign in to go on. What you typed is still here.</p>
          <PeopleAndPin />
        </Dialog>
      )}
    </Frame>
  );
}
