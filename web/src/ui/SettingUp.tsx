import { Link } from "react-router";
import { useMay, useSession } from "./frame";

/** Reminds whoever sets the shop up of what is left of it. */
export function SettingUp() {
  const left = useSession().shop.setting_up ?? [];
  const may = useMay("goThroughSetUp");
  if (!may || left.length === 0) return null;
  return (
    <p className="no-print flex flex-wrap items-center gap-3 rounded-field border border-base-300 border-l-4 border-l-accent bg-base-100 px-4 py-2">
      <span className="grow">
        Setting up the shop: {left.length} {left.length === 1 ? "step" : "steps"} left.
      </span>
      <Link to="/set-up" className="btn btn-outline">
        Continue setting up
      </Link>
    </p>
  );
}
