import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { customersOptions } from "../../api/queries";
import { Searched } from "../../ui/answer";
import { ButtonLink } from "../../ui/ButtonLink";
import { useCommands } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Counted, ListHead, ShowMore, type Which } from "../../ui/ListHead";
import { Empty, Failure, Waiting } from "../../ui/parts";
import { useRemembered } from "../../ui/remember";

/** Everybody who owns a bike in care. */
export function CustomersPlace() {
  const [q, setQ] = useRemembered("customers.q", "");
  const [which, setWhich] = useRemembered<Which>("customers.which", "current");
  const customers = useInfiniteQuery(customersOptions(q, which === "archived"));
  const rows = customers.data?.pages.flatMap((p) => p.customers) ?? [];
  const navigate = useNavigate();
  useCommands({ n: { words: "Add a customer", may: "addCustomer", run: () => navigate("/customers/new") } });
  return (
    <div className="mx-auto flex max-w-[1180px] flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Customers</Heading>
      <ListHead
        find={{ words: "Name, phone or email", label: "Find among the customers", value: q, set: setQ }}
        which={{ current: "Current", value: which, set: setWhich }}
        add={{ words: "Add a customer", to: "/customers/new", may: "addCustomer" }}
      />
      <section className="card card-border bg-base-100 overflow-hidden" aria-label="Customers">
        {customers.isPending && <Waiting what="the customers" />}
        {customers.isError && (
          <div className="p-3">
            <Failure error={customers.error} again={() => customers.refetch()} />
          </div>
        )}
        <Searched query={customers} question={{ q: q.trim(), archived: which === "archived" }}>
          {(asked) => (
            <>
              {customers.isSuccess && rows.length === 0 && (
                <Empty
                  title={
                    asked.q !== ""
                      ? "Nobody here fits."
                      : asked.archived
                        ? "Nobody is archived."
                        : "The customers of the bikes you care for will be here."
                  }
                >
                  {asked.q === "" && !asked.archived && (
                    <ButtonLink to="/customers/new" may="addCustomer" kind="main">
                      Add the first customer
                    </ButtonLink>
                  )}
                </Empty>
              )}
              <Counted total={customers.data?.pages[0]?.total} one="customer" q={asked.q} />
              <ul>
                {rows.map((c) => (
                  <li key={c.id}>
                    <Link
                      to={`/customers/${c.id}`}
                      className="min-h-(--target) border-t border-base-300 hover:bg-base-200 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 px-4 py-2 sm:grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_120px]"
                    >
                      <span className="truncate font-semibold">{c.facts.name}</span>
                      <span className="truncate font-mono text-note text-quiet max-sm:col-start-1 max-sm:row-start-2">
                        {c.facts.phone || c.facts.email || ""}
                      </span>
                      <span className="text-right text-quiet">
                        {c.bikes} {c.bikes === 1 ? "bike" : "bikes"}
                      </span>
                    </Link>
                  </li>
                ))}
              </ul>
              <ShowMore query={customers} />
            </>
          )}
        </Searched>
      </section>
    </div>
  );
}
