import { createContext, type RefObject, useContext, useEffect } from "react";
import type { Session } from "../api/client";
import type { operations } from "../api/schema";

/** Commands that the place on the screen adds to those of the frame, by key. */
export type Commands = Record<string, { words: string; may?: Operation; run: () => void }>;

export type FrameContext = {
  session: Session;
  commands: RefObject<Commands>;
};

export const frameContext = createContext<FrameContext | null>(null);

function useFrame(): FrameContext {
  const frame = useContext(frameContext);
  if (!frame) throw new Error("not inside the frame");
  return frame;
}

/** Who is signed in, and the shop. */
export const useSession = (): Session => useFrame().session;

/** An operation of the contract. */
export type Operation = keyof operations;

/** Whether whoever is signed in may do an operation. What they may not is not offered. */
export function useMay(operation: Operation): boolean {
  return !(operation in useSession().may_not);
}

/** The same of what is drawn outside of the frame, too, where nobody is signed in: there all is offered that there is. */
export function useOffered(operation: Operation | undefined): boolean {
  const frame = useContext(frameContext);
  return operation === undefined || !(operation in (frame?.session.may_not ?? {}));
}

/** What is said to whoever may not do an operation; undefined for who may. */
export const useWhyNot = (operation: Operation): string | undefined => useSession().may_not[operation];

/** Gives the keys of this place to the frame while the place is on the screen. */
export function useCommands(commands: Commands): void {
  const frame = useFrame();
  useEffect(() => {
    frame.commands.current = Object.fromEntries(
      Object.entries(commands).filter(([, c]) => c.may === undefined || !(c.may in frame.session.may_not)),
    );
    return () => {
      frame.commands.current = {};
    };
  });
}
