import { infiniteQueryOptions, keepPreviousData, queryOptions, skipToken } from "@tanstack/react-query";
import {
  type Arrival,
  api,
  ask,
  type BenchQuestion,
  type CleaningQuestion,
  type DueState,
  type FloorTry,
  type MixQuestion,
  Problem,
  type Rules,
  type Session,
  type SizerQuestion,
  type ZeroReading,
} from "./client";

/** Who is signed in; null when nobody is. */
export const sessionOptions = queryOptions({
  queryKey: ["session"],
  queryFn: async ({ signal }): Promise<Session | null> => {
    try {
      return await ask(api.GET("/session", { signal }));
    } catch (e) {
      if (e instanceof Problem && e.body.status === 401) return null;
      throw e;
    }
  },
  staleTime: Number.POSITIVE_INFINITY,
});

export const peopleOptions = queryOptions({
  queryKey: ["people"],
  queryFn: ({ signal }) => ask(api.GET("/people", { signal })),
});

export const bikesOptions = (q: string, archived: boolean) =>
  infiniteQueryOptions({
    queryKey: ["bikes", { q, archived }],
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
    queryKey: ["bikes", "find", q],
    queryFn: ({ signal }) => ask(api.GET("/bikes", { signal, params: { query: { q, limit: 7 } } })),
    enabled: q.trim() !== "",
    placeholderData: keepPreviousData,
  });

export const bikeOptions = (tag: string) =>
  queryOptions({
    queryKey: ["bike", tag],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}", { signal, params: { path: { tag } } })),
  });

export const wearTrackOptions = (tag: string) =>
  queryOptions({
    queryKey: ["bike", tag, "track"],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/wear-track", { signal, params: { path: { tag } } })),
  });

export const ledgerOptions = (tag: string) =>
  infiniteQueryOptions({
    queryKey: ["bike", tag, "ledger"],
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

export const customersOptions = (q: string, archived = false) =>
  queryOptions({
    queryKey: ["customers", { q, archived }],
    queryFn: ({ signal }) => ask(api.GET("/customers", { signal, params: { query: { q, archived, limit: 200 } } })),
    placeholderData: keepPreviousData,
  });

export const customerOptions = (customer: string) =>
  queryOptions({
    queryKey: ["customers", customer],
    queryFn: ({ signal }) => ask(api.GET("/customers/{customer}", { signal, params: { path: { customer } } })),
  });

export const instrumentsOptions = queryOptions({
  queryKey: ["instruments"],
  queryFn: ({ signal }) => ask(api.GET("/instruments", { signal })),
});

export const retiredOptions = queryOptions({
  queryKey: ["instruments", "retired"],
  queryFn: ({ signal }) => ask(api.GET("/instruments", { signal, params: { query: { retired: true } } })),
});

export const instrumentOptions = (instrument: string) =>
  queryOptions({
    queryKey: ["instruments", instrument],
    queryFn: ({ signal }) => ask(api.GET("/instruments/{instrument}", { signal, params: { path: { instrument } } })),
  });

/** What a reading of a new chain means; null while nothing is typed. */
export const zeroOptions = (instrument: string, reading: ZeroReading | null) =>
  queryOptions({
    queryKey: ["instruments", instrument, "zero", reading],
    queryFn: ({ signal }) =>
      ask(
        api.POST("/instruments/{instrument}/zero-reading", {
          signal,
          params: { path: { instrument } },
          body: reading as ZeroReading,
        }),
      ),
    enabled: reading !== null,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

export const rulesOptions = queryOptions({
  queryKey: ["rules"],
  queryFn: ({ signal }) => ask(api.GET("/rules", { signal })),
});

/** What a draft of the rules would change; null while it cannot be asked. */
export const previewOptions = (draft: Rules | null) =>
  queryOptions({
    queryKey: ["rules", "preview", draft],
    queryFn: ({ signal }) => ask(api.POST("/rules/preview", { signal, body: draft as Rules })),
    enabled: draft !== null,
    placeholderData: keepPreviousData,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

export const learnedMinutesOptions = queryOptions({
  queryKey: ["rules", "minutes"],
  queryFn: ({ signal }) => ask(api.GET("/rules/minutes", { signal })),
});

export const previewDueOptions = (draft: Rules | null) =>
  queryOptions({
    queryKey: ["rules", "preview-due", draft],
    queryFn: ({ signal }) => ask(api.POST("/rules/preview-due", { signal, body: draft as Rules })),
    enabled: draft !== null,
    placeholderData: keepPreviousData,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

export const costsOptions = (tag: string) =>
  queryOptions({
    queryKey: ["bike", tag, "costs"],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/costs", { signal, params: { path: { tag } } })),
  });

/** What the bench says of everything typed so far. */
export const benchOptions = (question: BenchQuestion | null) =>
  queryOptions({
    queryKey: ["bench", question],
    queryFn: ({ signal }) => ask(api.POST("/bench/read", { signal, body: question as BenchQuestion })),
    enabled: question !== null,
    placeholderData: keepPreviousData,
    gcTime: 10_000, // one a keystroke: not worth keeping
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

/** What the sizer says of a drivetrain. */
export const sizerOptions = (question: SizerQuestion) =>
  queryOptions({
    queryKey: ["sizer", question],
    queryFn: ({ signal }) => ask(api.POST("/sizer", { signal, body: question })),
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

export const replacementOptions = (tag: string) =>
  queryOptions({
    queryKey: ["bike", tag, "replacement"],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/replacement", { signal, params: { path: { tag } } })),
  });

/** How much product and water a mixture takes, with the question, since the answer to the last one stays up meanwhile. */
export const mixOptions = (question: MixQuestion | undefined) =>
  queryOptions({
    queryKey: ["mix", question],
    queryFn: question
      ? async ({ signal }) => ({ question, answer: await ask(api.POST("/calc/mix", { signal, body: question })) })
      : skipToken,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

/** How a bike is cleaned, once both grades were given. */
export const cleaningOptions = (tag: string, question: CleaningQuestion | undefined) =>
  queryOptions({
    queryKey: ["bike", tag, "cleaning", question],
    queryFn: question
      ? ({ signal }) =>
          ask(api.POST("/bikes/{tag}/cleaning-plan", { signal, params: { path: { tag } }, body: question }))
      : skipToken,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

export const stockOptions = (retired: boolean) =>
  queryOptions({
    queryKey: ["stock", { retired }],
    queryFn: ({ signal }) => ask(api.GET("/stock", { signal, params: { query: { retired } } })),
  });

export const needsOptions = queryOptions({
  queryKey: ["stock", "needs"],
  queryFn: ({ signal }) => ask(api.GET("/stock/needs", { signal })),
});

/** The jobs that are open. */
export const floorOptions = queryOptions({
  queryKey: ["floor"],
  queryFn: ({ signal }) => ask(api.GET("/floor", { signal })),
  refetchInterval: 30_000, // what was to begin and did not moves by the clock alone
});

/** What a change on the floor would cost; it is asked about while it is thought of. */
export const tryFloorOptions = (what: FloorTry | null) =>
  queryOptions({
    queryKey: ["floor", "try", what],
    queryFn: ({ signal }) => ask(api.POST("/floor/try", { signal, body: what as FloorTry })),
    enabled: what !== null,
    staleTime: 10_000,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

/** For when a bike that comes in can be promised. */
export const offerOptions = (tag: string, arrival: Arrival | null) =>
  queryOptions({
    queryKey: ["floor", "offer", tag, arrival],
    queryFn: ({ signal }) =>
      ask(api.POST("/bikes/{tag}/offer", { signal, params: { path: { tag } }, body: arrival as Arrival })),
    enabled: arrival !== null,
    placeholderData: keepPreviousData,
    retry: (count, e) => !(e instanceof Problem) && count < 3,
  });

export const jobsOptions = queryOptions({
  queryKey: ["jobs"],
  queryFn: ({ signal }) => ask(api.GET("/jobs", { signal })),
});

export const jobOptions = (job: string) =>
  queryOptions({
    queryKey: ["jobs", job],
    queryFn: ({ signal }) => ask(api.GET("/jobs/{job}", { signal, params: { path: { job } } })),
  });

/** The ways to do a job, side by side. */
export const waysOptions = (job: string) =>
  queryOptions({
    queryKey: ["jobs", job, "ways"],
    queryFn: ({ signal }) => ask(api.GET("/jobs/{job}/options", { signal, params: { path: { job } } })),
  });

export const bikeJobsOptions = (tag: string) =>
  queryOptions({
    queryKey: ["jobs", "of", tag],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/jobs", { signal, params: { path: { tag } } })),
  });

/** What owners say and what may be found: it does not change while the page is open. */
export const jobWordsOptions = queryOptions({
  queryKey: ["job-words"],
  queryFn: ({ signal }) => ask(api.GET("/job-words", { signal })),
  staleTime: Number.POSITIVE_INFINITY,
});

/** What runs by itself, with how far this device's clock is behind the server's, in milliseconds. */
export const waitsOptions = queryOptions({
  queryKey: ["waits"],
  queryFn: async ({ signal }) => {
    const list = await ask(api.GET("/waits", { signal }));
    return { waits: list.waits, behind: Date.parse(list.now) - Date.now() };
  },
});

export const bathsOptions = queryOptions({
  queryKey: ["baths"],
  queryFn: ({ signal }) => ask(api.GET("/baths", { signal })),
});

export const materialsOptions = queryOptions({
  queryKey: ["materials"],
  queryFn: ({ signal }) => ask(api.GET("/materials", { signal })),
});

export const wasteOptions = queryOptions({
  queryKey: ["waste"],
  queryFn: ({ signal }) => ask(api.GET("/waste", { signal })),
});

type DueFilter = { state?: DueState; within?: number; quiet?: boolean; customer?: string };

/** Bikes by what they need most, page by page. */
export const dueOptions = (filter: DueFilter) =>
  infiniteQueryOptions({
    queryKey: ["due", filter],
    queryFn: ({ signal, pageParam }) =>
      ask(
        api.GET("/due", {
          signal,
          params: { query: { ...filter, limit: 30, ...(pageParam ? { after: pageParam } : {}) } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });

export const bikeDueOptions = (tag: string) =>
  queryOptions({
    queryKey: ["bike", tag, "due"],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/due", { signal, params: { path: { tag } } })),
  });

export const reportsOptions = (tag: string) =>
  queryOptions({
    queryKey: ["bike", tag, "reports"],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/reports", { signal, params: { path: { tag } } })),
  });

export const messagesOptions = queryOptions({
  queryKey: ["messages"],
  queryFn: ({ signal }) => ask(api.GET("/messages", { signal })),
});

export const receivedOptions = queryOptions({
  queryKey: ["messages", "received"],
  queryFn: ({ signal }) => ask(api.GET("/gateway/received", { signal })),
});

/** The secret links of a bike that open something, or the shop's. */
export const linksOptions = (tag: string | undefined) =>
  queryOptions({
    queryKey: ["links", tag ?? ""],
    queryFn: ({ signal }) => ask(api.GET("/links", { signal, params: { query: tag ? { tag } : {} } })),
  });

/** The ride files of a bike that wait for answers. */
export const rideDraftsOptions = (tag: string) =>
  queryOptions({
    queryKey: ["bike", tag, "ride-drafts"],
    queryFn: ({ signal }) => ask(api.GET("/bikes/{tag}/ride-drafts", { signal, params: { path: { tag } } })),
  });

/** A bike as its owner sees it, by the secret of its link. */
export const ownerPageOptions = (token: string) =>
  queryOptions({
    queryKey: ["owner-page", token],
    queryFn: ({ signal }) => ask(api.GET("/owner-page/{token}", { signal, params: { path: { token } } })),
  });
