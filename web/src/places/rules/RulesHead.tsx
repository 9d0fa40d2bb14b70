import { NavLink } from "react-router";

/** Over the places where the shop says how it works. */
export function RulesHead() {
  const look = ({ isActive }: { isActive: boolean }) =>
    `flex min-h-(--target) items-center border-b-[3px] px-1 text-lg font-semibold ${
      isActive ? "border-b-accent" : "border-b-transparent text-quiet hover:text-base-content"
    }`;
  return (
    <nav aria-label="Rules" className="flex gap-6">
      <NavLink to="/rules" end className={look}>
        House rules
      </NavLink>
      <NavLink to="/rules/tools" className={look}>
        Measuring tools
      </NavLink>
      <NavLink to="/rules/tables" className={look}>
        In and out
      </NavLink>
    </nav>
  );
}
