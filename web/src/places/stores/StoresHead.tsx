import { NavLink } from "react-router";

/** Over the places of the stores. */
export function StoresHead() {
  const look = ({ isActive }: { isActive: boolean }) =>
    `flex min-h-(--target) shrink-0 items-center border-b-[3px] px-1 text-lg font-semibold ${
      isActive ? "border-b-accent" : "border-b-transparent text-quiet hover:text-base-content"
    }`;
  return (
    <nav aria-label="Stores" className="no-print flex gap-6 overflow-x-auto">
      <NavLink to="/stores" end className={look}>
        Shelf
      </NavLink>
      <NavLink to="/stores/fluids" className={look}>
        Fluids
      </NavLink>
      <NavLink to="/stores/baths" className={look}>
        Baths
      </NavLink>
      <NavLink to="/stores/waste" className={look}>
        Waste
      </NavLink>
    </nav>
  );
}
