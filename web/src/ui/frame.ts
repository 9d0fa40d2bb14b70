import { createContext, type RefObject, useContext, useEffect } from "react";
import type { Session } from "../api/client";

/** Commands that the place on the screen adds to those of the frame, by key. */
export type Commands = Record<string, { words: string; run: () => void }>;

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

/** Gives the keys of this place to the frame while the place is on the screen. */
export function useCommands(commands: Commands): void {
  const frame = useFrame();
  useEffect(() => {
    frame.commands.current = commands;
    return () => {
      frame.commands.current = {};
    };
  });
}
