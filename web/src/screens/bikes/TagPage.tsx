import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, ask, type Bike } from "../../api/client";
import { bikeOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { bikeName } from "../../words/bikes";

/** The tag for the bike, on paper: cut out, laminated, tied to the frame. */
export function TagPage() {
  const { tag = "" } = useParams();
  const bike = useQuery(bikeOptions(tag));
  return (
    <Fetched query={bike} what="the tag">
      {(b) => <Shown bike={b} />}
    </Fetched>
  );
}

function Shown({ bike }: { bike: Bike }) {
  const shop = useSession().shop;
  // A code is printed once: each print gives a link of its own, and ends none that hangs on a bike already.
  const link = useWrite(
    () => ask(api.POST("/links", { body: { kind: "owner", tag: bike.tag, name: "Tag" } })),
    [{ topic: "bike", tag: bike.tag }],
  );
  return (
    <div className="flex flex-col items-center gap-5 p-6">
      <Heading unseen>Tag of {bike.tag}</Heading>
      <div className="no-print flex w-full max-w-md flex-wrap gap-3">
        <Button kind="main" onClick={() => window.print()}>
          Print
        </Button>
        {!link.data && (
          <Button disabled={link.isPending} onClick={() => link.mutate()}>
            {link.isPending ? "Making…" : "Add the code for the customer"}
          </Button>
        )}
        <ButtonLink to={`/bikes/${bike.tag}`}>Back to the bike</ButtonLink>
      </div>
      {link.isError && <Failure error={link.error} />}
      {/* On paper it is black on white at its true size, 85 by 40 mm, whatever the theme. */}
      <section
        aria-label="The tag"
        className="flex h-[40mm] w-[85mm] items-center gap-[3mm] rounded-[3mm] border border-dashed border-[#1b1a19] bg-white p-[3mm] text-[#1b1a19]"
      >
        <img src={`/api/v1/bikes/${bike.tag}/qr`} alt="Code that a scanner reads" className="h-full" />
        <div className="flex min-w-0 grow flex-col gap-[2mm]">
          <Tag tag={bike.tag} size="middle" />
          <p className="line-clamp-2 text-mark leading-tight">{bikeName(bike.facts)}</p>
          <p className="line-clamp-1 font-mono text-mark">{bike.facts.frame_number}</p>
        </div>
      </section>
      {/* The back of it, or a card for the owner. */}
      <section
        aria-label="For the customer"
        className="flex h-[40mm] w-[85mm] items-center gap-[3mm] rounded-[3mm] border border-dashed border-[#1b1a19] bg-white p-[3mm] text-[#1b1a19]"
      >
        {link.data ? (
          <img
            src={`data:image/svg+xml,${encodeURIComponent(link.data.code)}`}
            alt="Code of the customer's page"
            className="h-full"
          />
        ) : (
          <span className="aspect-square h-full border border-dashed border-[#1b1a19]" />
        )}
        <p className="text-mark leading-snug">
          <b className="block text-fine">{shop.name}</b>
          How worn it is, what was done, what comes next: point a phone's camera at this.
        </p>
      </section>
      <p className="no-print max-w-md text-quiet">
        The last letter checks the number: a mistyped tag is refused and never opens another bike. No customer's name is
        printed. The second code opens the customer's page. Each print gets a link of its own, listed at the bike, where
        it can be withdrawn.
      </p>
    </div>
  );
}
