import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import type { Question } from "../ui/answer";
import { settle, settleClock, waysOf } from "../ui/shop";
import {
  api,
  ask,
  type Bath,
  type BenchAnswer,
  type BenchQuestion,
  type BikeDue,
  type CleaningPlan,
  type Condition,
  type DuePage,
  type DuePreview,
  type DueState,
  type Floor,
  type FloorCost,
  type FloorTry,
  type Intake,
  type Job,
  type JobSummary,
  type MixAnswer,
  type MixQuestion,
  type Offer,
  type OwnerPage,
  Problem,
  type Rules,
  type RulesPreview,
  type Session,
  type SizerAnswer,
  type SizerQuestion,
  type Wanted,
  type ZeroReading,
  type ZeroUnderstood,
} from "./client";
import { keys } from "./keys";

/** The moments until which the data are so: when one comes they are asked again, by ui/moments. */
const until = <T>(moments: (data: T) => (string | undefined)[]) => ({ until: moments });

/** What is seen to before it is asked who is signed in, and what becomes of the answer; the shop's pages set it. */
export const aroundSession = {
  before: async (): Promise<void> => {},
  heard: (session: Session): Session | null => session,
};

/** Who is signed in; null when nobody is. */
export const sessionOptions = queryOptions({
  queryKey: keys.session,
  queryFn: async ({ signal }): Promise<Session | null> => {
    await aroundSession.before();
    try {
      const session = await ask(api.GET("/session", { signal }));
      settle(waysOf(session.shop));
      settleClock(session.now);
      return aroundSession.heard(session);
    } catch (e) {
      if (e instanceof Problem && e.body.status === 401) return null;
      throw e;
    }
  },
  staleTime: Number.POSITIVE_INFINITY,
});

export const peopleOptions = queryOptions({
  queryKey: keys.people,
  queryFn: ({ signal }) => ask(api.GET("/people", { signal })),
});

export const setUpOptions = queryOptions({
  queryKey: keys.setUp,
  queryFn: ({ signal }) => ask(api.GET("/setup", { signal })),
});

export const bikesOptions = (q: string, archived: boolean) =>
  infiniteQueryOptions({
    queryKey: keys.bikeList({ q, archived }),
    queryFn: ({ signal, pageParam }) =>
      ask(
        api.GET("/bikes", {
          signal,
          params: { query: { q, archived, ...(pageParam ? { after: pageParam } : {}) } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });

/** The few bikes that fit best while somebody types. */
export const findOptions = (q: string) =>
  queryOptions({
    queryKey: keys.bikesFound(q),
    queryFn: ({ signal }) => ask(api.GET("/bikes", { signal, params: { query: { q, limit: 7 } } })),
    enabled: q.trim() !== "",
    placeholderData: keepPreviousData,
  });

export const bikeOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.bike(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}", { signal, params: { path: { tag } } })),
  });

export const wearTrackOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.wearTrack(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/wear-track", { signal, params: { path: { tag } } })),
  });

export const ledgerOptions = (tag: string) =>
  infiniteQueryOptions({
    queryKey: keys.ledger(tag),
    queryFn: ({ signal, pageParam }) =>
      ask(
        api.GET("/bikes/{tag}/ledger", {
          signal,
          params: { path: { tag }, query: pageParam ? { before: pageParam } : {} },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next,
  });

export const customersOptions = (q: string, archived: boolean) =>
  infiniteQueryOptions({
    queryKey: keys.customerList({ q, archived }),
    queryFn: ({ signal, pageParam }) =>
      ask(
        api.GET("/customers", {
          signal,
          params: { query: { q, archived, ...(pageParam ? { after: pageParam } : {}) } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });

/** The few customers who fit best while somebody types. */
export const customersFoundOptions = (q: string) =>
  queryOptions({
    queryKey: keys.customersFound(q),
    queryFn: async ({ signal }) => {
      const page = await ask(api.GET("/customers", { signal, params: { query: { q, limit: 6 } } }));
      return page.customers;
    },
    placeholderData: keepPreviousData,
  });

export const customerOptions = (customer: string) =>
  queryOptions({
    queryKey: keys.customer(customer),
    queryFn: ({ signal }) => ask(api.GET("/customers/{customer}", { signal, params: { path: { customer } } })),
  });

export const staffOptions = queryOptions({
  queryKey: keys.staff,
  queryFn: ({ signal }) => ask(api.GET("/staff", { signal })),
});

export const devicesOptions = queryOptions({
  queryKey: keys.devices,
  queryFn: ({ signal }) => ask(api.GET("/devices", { signal })),
});

export const permissionsOptions = queryOptions({
  queryKey: keys.permissions,
  queryFn: ({ signal }) => ask(api.GET("/permissions", { signal })),
});

export const settingChangesOptions = infiniteQueryOptions({
  queryKey: keys.settingChanges,
  queryFn: ({ signal, pageParam }) =>
    ask(api.GET("/settings/changes", { signal, params: { query: pageParam ? { before: pageParam } : {} } })),
  initialPageParam: 0,
  getNextPageParam: (page) => page.next,
});

export const instrumentsOptions = queryOptions({
  queryKey: keys.instruments,
  queryFn: ({ signal }) => ask(api.GET("/instruments", { signal })),
});

export const retiredOptions = queryOptions({
  queryKey: keys.retiredInstruments,
  queryFn: ({ signal }) => ask(api.GET("/instruments", { signal, params: { query: { retired: true } } })),
});

export const instrumentOptions = (instrument: string) =>
  queryOptions({
    queryKey: keys.instrument(instrument),
    queryFn: ({ signal }) => ask(api.GET("/instruments/{instrument}", { signal, params: { path: { instrument } } })),
  });

/** What a reading of a new chain means; null while nothing is typed. */
export const zeroQuestion = (instrument: string, reading: ZeroReading | null): Question<ZeroUnderstood> => ({
  key: keys.zeroReading(instrument, reading),
  put: reading
    ? (signal) =>
        ask(
          api.POST("/instruments/{instrument}/zero-reading", {
            signal,
            params: { path: { instrument } },
            body: reading,
          }),
        )
    : undefined,
});

export const rulesOptions = queryOptions({
  queryKey: keys.rules,
  queryFn: ({ signal }) => ask(api.GET("/rules", { signal })),
});

/** What a draft of the rules would change; null while it cannot be asked. */
export const previewQuestion = (draft: Rules | null): Question<RulesPreview> => ({
  key: keys.rulesPreview(draft),
  put: draft ? (signal) => ask(api.POST("/rules/preview", { signal, body: draft })) : undefined,
});

export const learnedMinutesOptions = queryOptions({
  queryKey: keys.learnedMinutes,
  queryFn: ({ signal }) => ask(api.GET("/rules/minutes", { signal })),
});

export const previewDueQuestion = (draft: Rules | null): Question<DuePreview> => ({
  key: keys.rulesPreviewDue(draft),
  put: draft ? (signal) => ask(api.POST("/rules/preview-due", { signal, body: draft })) : undefined,
});

export const costsOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.costs(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/costs", { signal, params: { path: { tag } } })),
  });

/** What the bench says of everything typed so far. */
export const benchQuestion = (question: BenchQuestion | null): Question<BenchAnswer> => ({
  key: keys.benchAnswer(question),
  put: question ? (signal) => ask(api.POST("/bench/read", { signal, body: question })) : undefined,
});

/** What the sizer says of a drivetrain. */
export const sizerQuestion = (question: SizerQuestion): Question<SizerAnswer> => ({
  key: keys.chainLength(question),
  put: (signal) => ask(api.POST("/sizer", { signal, body: question })),
});

export const replacementOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.replacement(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/replacement", { signal, params: { path: { tag } } })),
  });

/** How much product and water a mixture takes, with the question, since the answer to the last one stays up meanwhile. */
export const mixQuestion = (
  question: MixQuestion | undefined,
): Question<{ question: MixQuestion; answer: MixAnswer }> => ({
  key: keys.mix(question),
  put: question
    ? async (signal) => ({ question, answer: await ask(api.POST("/calc/mix", { signal, body: question })) })
    : undefined,
});

/** How a bike is cleaned, once both grades were given. */
export const cleaningPlanQuestion = (tag: string, question: Condition | undefined): Question<CleaningPlan> => ({
  key: keys.cleaningPlan(tag, question),
  put: question
    ? (signal) => ask(api.POST("/bikes/{tag}/cleaning-plan", { signal, params: { path: { tag } }, body: question }))
    : undefined,
});

export const stockOptions = (retired: boolean) =>
  queryOptions({
    queryKey: keys.stockList({ retired }),
    queryFn: ({ signal }) => ask(api.GET("/stock", { signal, params: { query: { retired } } })),
  });

export const needsOptions = queryOptions({
  queryKey: keys.needs,
  queryFn: ({ signal }) => ask(api.GET("/stock/needs", { signal })),
});

/** The jobs that are open. */
export const floorOptions = queryOptions({
  queryKey: keys.day,
  queryFn: ({ signal }) => ask(api.GET("/floor", { signal })),
  meta: until((f: Floor) => [f.until]),
});

/** What is to be had ready for a day; the next on which somebody works where none is named. */
export const sheetOptions = (day: string | undefined) =>
  queryOptions({
    queryKey: keys.sheet(day),
    queryFn: ({ signal }) => ask(api.GET("/floor/sheet", { signal, params: { query: day ? { day } : {} } })),
  });

/** What a change on the floor would cost; it is asked about while it is thought of. */
export const tryFloorQuestion = (what: FloorTry | null): Question<FloorCost> => ({
  key: keys.dayTried(what),
  put: what ? (signal) => ask(api.POST("/floor/try", { signal, body: what })) : undefined,
  holds: 10_000,
});

/** For when a bike that comes in can be promised. */
export const offerQuestion = (tag: string, intake: Intake | null): Question<Offer> => ({
  key: keys.offer(tag, intake),
  put: intake
    ? (signal) => ask(api.POST("/bikes/{tag}/offer", { signal, params: { path: { tag } }, body: intake }))
    : undefined,
  until: (offer) => [offer.until],
});

/** When a bike that comes in could be ridden, by each route and lubricant. */
export const wantedQuestion = (tag: string, intake: Intake): Question<Wanted> => ({
  key: keys.wanted(tag, intake),
  put: (signal) => ask(api.POST("/bikes/{tag}/wanted", { signal, params: { path: { tag } }, body: intake })),
  until: (w) => [w.until],
});

export const jobsOptions = queryOptions({
  queryKey: keys.jobs,
  queryFn: ({ signal }) => ask(api.GET("/jobs", { signal })),
  meta: until((list: JobSummary[]) => list.map((j) => j.held_until)),
});

export const jobOptions = (job: string) =>
  queryOptions({
    queryKey: keys.job(job),
    queryFn: ({ signal }) => ask(api.GET("/jobs/{job}", { signal, params: { path: { job } } })),
    meta: until((j: Job) => [j.held_until, ...j.step_list.map((s) => s.until)]),
  });

/** The ways to do a job, side by side. */
export const waysOptions = (job: string) =>
  queryOptions({
    queryKey: keys.routes(job),
    queryFn: ({ signal }) => ask(api.GET("/jobs/{job}/options", { signal, params: { path: { job } } })),
  });

export const bikeJobsOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.bikeJobs(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/jobs", { signal, params: { path: { tag } } })),
    meta: until((list: JobSummary[]) => list.map((j) => j.held_until)),
  });

/** What owners say and what may be found: it does not change while the page is open. */
export const jobWordsOptions = queryOptions({
  queryKey: keys.jobWords,
  queryFn: ({ signal }) => ask(api.GET("/job-words", { signal })),
  staleTime: Number.POSITIVE_INFINITY,
});

/** What runs by itself, with how far this device's clock is behind the server's, in milliseconds. */
export const waitsOptions = queryOptions({
  queryKey: keys.waits,
  queryFn: async ({ signal }) => {
    const list = await ask(api.GET("/waits", { signal }));
    return { waits: list.waits, behind: Date.parse(list.now) - Date.now() };
  },
});

export const bathsOptions = queryOptions({
  queryKey: keys.baths,
  queryFn: ({ signal }) => ask(api.GET("/baths", { signal })),
  meta: until((list: Bath[]) => list.map((b) => b.settling_to)),
});

export const materialsOptions = queryOptions({
  queryKey: keys.fluids,
  queryFn: ({ signal }) => ask(api.GET("/materials", { signal })),
});

export const wasteOptions = queryOptions({
  queryKey: keys.waste,
  queryFn: ({ signal }) => ask(api.GET("/waste", { signal })),
});

type DueFilter = { state?: DueState; within?: number; upcoming?: boolean; quiet?: boolean; customer?: string };

/** Bikes by what they need most, page by page. */
export const dueOptions = (filter: DueFilter) =>
  infiniteQueryOptions({
    queryKey: keys.dueList(filter),
    queryFn: ({ signal, pageParam }) =>
      ask(
        api.GET("/due", {
          signal,
          params: { query: { ...filter, limit: 30, ...(pageParam ? { after: pageParam } : {}) } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
    meta: until((due: { pages: DuePage[] }) => due.pages.map((p) => p.until)),
  });

export const bikeDueOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.bikeDue(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/due", { signal, params: { path: { tag } } })),
    meta: until((due: BikeDue) => [due.until]),
  });

export const reportsOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.bikeReports(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/reports", { signal, params: { path: { tag } } })),
  });

/** What customers of any bike reported and nobody decided on. */
export const waitingOptions = queryOptions({
  queryKey: keys.waiting,
  queryFn: ({ signal }) => ask(api.GET("/waiting", { signal })),
});

export const customerHistoryOptions = (customer: string) =>
  queryOptions({
    queryKey: keys.customerHistory(customer),
    queryFn: ({ signal }) => ask(api.GET("/customers/{customer}/history", { signal, params: { path: { customer } } })),
  });

export const messagesOptions = infiniteQueryOptions({
  queryKey: keys.messageList,
  queryFn: ({ signal, pageParam }) =>
    ask(api.GET("/messages", { signal, params: { query: pageParam ? { after: pageParam } : {} } })),
  initialPageParam: "",
  getNextPageParam: (page) => page.next,
});

export const receivedOptions = queryOptions({
  queryKey: keys.received,
  queryFn: ({ signal }) => ask(api.GET("/gateway/received", { signal })),
});

/** The secret links of a bike that open something, or the shop's. */
export const linksOptions = (tag: string | undefined) =>
  queryOptions({
    queryKey: keys.links(tag),
    queryFn: ({ signal }) => ask(api.GET("/links", { signal, params: { query: tag ? { tag } : {} } })),
  });

/** The ride files of a bike that wait for answers. */
export const rideDraftsOptions = (tag: string) =>
  queryOptions({
    queryKey: keys.rideDrafts(tag),
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/ride-drafts", { signal, params: { path: { tag } } })),
  });

/** A bike as its owner sees it, by the secret of its link. */
export const ownerPageOptions = (token: string) =>
  queryOptions({
    queryKey: keys.customersPage(token),
    queryFn: async ({ signal }) => {
      const page = await ask(api.GET("/owner-page/{token}", { signal, params: { path: { token } } }));
      settle(waysOf(page));
      settleClock(page.now);
      return page;
    },
    meta: until((page: OwnerPage) => [page.until]),
  });
