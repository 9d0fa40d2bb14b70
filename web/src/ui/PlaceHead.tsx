import { NavLink } from "react-router";

type Props = {
  label: string;
  /** Where each leads and its name; the first is the place itself. */
  places: [to: string, name: string][];
};

/** The names over places that belong together, the one that is open underlined. */
export function PlaceHead({ label, places }: Props) {
  return (
    <nav aria-label={label} className="no-print tabs tabs-border flex-nowrap gap-x-6 overflow-x-auto max-sm:gap-x-3">
      {places.map(([to, name], i) => (
        <NavLink
          key={to}
          to={to}
          end={i === 0}
          className={({ isActive }) => `tab text-lg font-semibold ${isActive ? "tab-active" : ""}`}
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
