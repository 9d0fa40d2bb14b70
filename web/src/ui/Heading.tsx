import { type ComponentProps, useEffect, useRef } from "react";

/**
 * The heading of a screen, which names the window too. Where the screen says by itself what it is, it is there only for
 * those who do not see it.
 */
export function Heading({ unseen = false, className, ...rest }: { unseen?: boolean } & ComponentProps<"h1">) {
  const ref = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    document.title = [ref.current?.textContent, "Earnest Pony"].filter(Boolean).join(" · ");
  });
  return <h1 ref={ref} className={unseen ? "sr-only" : className} {...rest} />;
}
