import { NavLink } from "react-router";

/** Over what is due, what owners are told, and what the simulated gateway received. */
export function DueHead() {
  const look = ({ isActive }: { isActive: boolean }) =>
    `flex min-h-(--target) shrink-0 items-center border-b-[3px] px-1 text-lg font-semibold ${
      isActive ? "border-b-accent" : "border-b-transparent text-quiet hover:text-base-content"
    }`;
  return (
    <nav aria-label="Due" className="no-print flex gap-6 overflow-x-auto">
      <NavLink to="/due" end className={look}>
        Due
      </NavLink>
      <NavLink to="/due/messages" className={look}>
        Messages
      </NavLink>
      <NavLink to="/due/gateway" className={look}>
        Gateway
      </NavLink>
    </nav>
  );
}
