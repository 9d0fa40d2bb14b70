import { useId } from "react";
import { useDistance } from "./distance";

const means =
  "Distance counted by how hard it was on the chain: rain, salt, mud and a motor count for more than a dry road. Wear grows with it.";

/** The unit of a distance that counts for wear, explained on tap or at the pointer. */
export function WearDistance() {
  const { unit } = useDistance();
  const id = useId();
  return (
    <button
      type="button"
      className="tooltip tooltip-left -my-2 min-h-(--target) cursor-help"
      data-tip={means}
      aria-describedby={id}
    >
      <span className="underline decoration-dotted underline-offset-4">wear {unit}</span>
      <span id={id} hidden>
        {means}
      </span>
    </button>
  );
}
