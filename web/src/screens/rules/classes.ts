import type { DrivetrainClass } from "../../api/client";
import { classWords } from "../../words/wear";
import type { Draft } from "./draft";

/** What a part of the settings' form is given: what stands in it, how it is changed, what is wrong with it. */
export type PartProps = {
  draft: Draft;
  change: (part: Partial<Draft>) => void;
  fault: (path: string) => string | undefined;
};

export const classes = Object.keys(classWords) as DrivetrainClass[];

export const changedClass = (
  draft: Draft,
  name: DrivetrainClass,
  part: Partial<Draft["classes"][DrivetrainClass]>,
) => ({
  classes: { ...draft.classes, [name]: { ...draft.classes[name], ...part } },
});
