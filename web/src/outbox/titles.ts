/** A code as words, where nothing better is known here: "cable-frayed" is "cable frayed". */
export const shortTitle = (code: string): string => code.replaceAll("-", " ");
