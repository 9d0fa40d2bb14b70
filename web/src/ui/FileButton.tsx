import { type ReactNode, useRef } from "react";
import { Button, FileInput } from "./controls";

/** Opens the device's files, and gives the one that is chosen. */
export function FileButton(props: {
  words: ReactNode;
  name: string;
  accept: string;
  choose: (f: File | null) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button className="self-start" onClick={() => input.current?.click()}>
        {props.words}
      </Button>
      <FileInput
        ref={input}
        name={props.name}
        accept={props.accept}
        aria-label={`File: ${props.name}`}
        onChange={(e) => {
          props.choose(e.target.files?.[0] ?? null);
          e.target.value = ""; // the same file may be chosen again
        }}
      />
    </>
  );
}
