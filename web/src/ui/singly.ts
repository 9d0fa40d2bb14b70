import { useCallback, useRef } from "react";

let pictures = 0;
const numbers = new WeakMap<Blob, number>();

/** What a write does, as text: two with the same are the same. A picture is itself and no other. */
function textOf(input: unknown): string {
  return (
    JSON.stringify(input, (_, v: unknown) => {
      if (!(v instanceof Blob)) return v;
      const number = numbers.get(v) ?? ++pictures;
      numbers.set(v, number);
      return `picture ${number}`;
    }) ?? ""
  );
}

/**
 * A hasty finger taps twice before the page knows of the first tap. Begin says whether a write may begin: not while one
 * that does the same is under way.
 */
export function useSingly(): { begin: (input: unknown) => boolean; end: (input: unknown) => void } {
  const underWay = useRef(new Set<string>());
  const begin = useCallback((input: unknown) => {
    const text = textOf(input);
    if (underWay.current.has(text)) return false;
    underWay.current.add(text);
    return true;
  }, []);
  const end = useCallback((input: unknown) => void underWay.current.delete(textOf(input)), []);
  return { begin, end };
}
