import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { vi } from "vitest";
import type { Session } from "./api/client";
import { frameContext } from "./ui/frame";

// What tests of the page share: a server made of functions, and the frame's context.

type Asked = { method: string; path: string; body: unknown; key: string | null };
type Handler = (asked: Asked) => unknown;

/** An answer that is a problem. */
export class Refused {
  readonly status: number;
  readonly body: Record<string, unknown>;
  constructor(status: number, code: string, title: string, more: Record<string, unknown> = {}) {
    this.status = status;
    this.body = { type: "about:blank", status, code, title, ...more };
  }
}

/** Answers fetches by "METHOD /path"; a handler that returns a Refused refuses, one that throws is a network that fails. */
export function serve(handlers: Record<string, Handler>): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const path = new URL(request.url, "http://pony").pathname.replace("/api/v1", "");
    const text = await request.text();
    const one = {
      method: request.method,
      path,
      body: text ? JSON.parse(text) : null,
      key: request.headers.get("Idempotency-Key"),
    };
    asked.push(one);
    const handler = handlers[`${request.method} ${path}`];
    if (!handler) throw new Error(`nobody answers ${request.method} ${path}`);
    const answer = await handler(one);
    const json = (body: unknown, status: number, type: string) =>
      new Response(JSON.stringify(body), { status, headers: { "Content-Type": type } });
    if (answer instanceof Refused) return json(answer.body, answer.status, "application/problem+json");
    return json(answer, request.method === "POST" ? 201 : 200, "application/json");
  });
  return asked;
}

export const session: Session = {
  person: { id: "p1", name: "Mira Oxenholt", role: "mechanic" },
  device: "stand 1",
  now: "2026-05-05T10:00:00Z",
  has: ["settings", "record", "overrule"],
  may_not: {},
  shop: {
    name: "Tidewrack Lane",
    length_unit: "mm",
    distance_unit: "km",
    temperature_unit: "c",
    volume_unit: "ml",
    mass_unit: "g",
    time_zone: "UTC",
    locale: "en-GB",
    currency: "EUR",
    wear_school: "protect",
    wear_places: 3,
    simulated_gateway: true,
    findings: [
      { code: "hooked-teeth", forces: "replace-together" },
      { code: "noise", forces: "" },
    ],
  },
};

function Where() {
  return <output aria-label="address">{useLocation().pathname}</output>;
}

/** Shows a part of the page at an address, signed in. */
export function show(part: ReactNode, at = "/", person: Partial<Session["person"]> = {}) {
  const client = new QueryClient({
    defaultOptions: { queries: { retry: false, staleTime: 1000, networkMode: "always" } },
  });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[at]}>
        <frameContext.Provider
          value={{ session: { ...session, person: { ...session.person, ...person } }, commands: { current: {} } }}
        >
          {part}
          <Where />
        </frameContext.Provider>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}
