import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, ask } from "../../api/client";
import { Button, Range } from "../../ui/controls";
import { percent } from "../../ui/format";
import { Heading } from "../../ui/Heading";
import { Choice, Failure, Field } from "../../ui/parts";

type Kind = "caliper-inside" | "gauge-percent";

/**
 * The simulated measuring tool, in a window of its own. It stands in for a data caliper or gauge: held to
 * a chain of which one says how worn it is, it reads with the noise of such a tool and types that into
 * the window from which it was opened.
 */
export function SimulatedTool() {
  const { channel = "" } = useParams();
  const [kind, setKind] = useState<Kind>("caliper-inside");
  const [worn, setWorn] = useState(0.42);
  const [typed, setTyped] = useState<string[]>([]);
  const press = useMutation({
    mutationFn: () => ask(api.POST("/simulated-tool/readings", { body: { kind, worn_pct: worn } })),
    onSuccess: ({ text }) => {
      const wire = new BroadcastChannel(channel);
      wire.postMessage(text);
      wire.close();
      setTyped([text, ...typed].slice(0, 5));
    },
  });
  return (
    <main className="flex min-h-full flex-col gap-4 bg-base-200 p-4 text-base-content">
      <header className="-m-4 mb-0 bg-[repeating-linear-gradient(135deg,var(--color-accent)_0_14px,var(--color-frame)_14px_28px)] p-2">
        <Heading className="bg-accent px-2 py-1 text-lg font-bold text-accent-content">
          Simulated measuring tool
        </Heading>
      </header>
      <p className="text-note">
        No real tool. It types into the field that has the focus in the window it was opened from, as a data caliper or
        gauge would.
      </p>
      <Choice
        label="It stands in for"
        value={kind}
        options={[
          { value: "caliper-inside", words: "Data caliper" },
          { value: "gauge-percent", words: "Data gauge" },
        ]}
        choose={setKind}
      />
      <Field label={`The chain in its jaws is worn ${percent(worn)} %`}>
        {(a) => (
          <Range {...a} min={0} max={1.5} step={0.01} value={worn} onChange={(e) => setWorn(Number(e.target.value))} />
        )}
      </Field>
      {press.isError && <Failure error={press.error} />}
      <Button kind="main" className="min-h-16 text-lg" onClick={() => press.mutate()} disabled={press.isPending}>
        Read and type
      </Button>
      <ol aria-label="Typed" aria-live="polite" className="font-mono text-base">
        {typed.map((t, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a list that only grows at its head
          <li key={typed.length - i} className={i === 0 ? "font-semibold" : "text-quiet"}>
            {t}
          </li>
        ))}
      </ol>
    </main>
  );
}
