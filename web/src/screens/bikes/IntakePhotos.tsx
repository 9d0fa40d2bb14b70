import { useEffect, useRef, useState } from "react";
import { Button, FileInput } from "../../ui/controls";
import { Failure } from "../../ui/parts";
import { smaller } from "../../ui/picture";
import { useWrite } from "../../ui/sending";
import { keepPhoto } from "../jobs/photos";

/** Pictures taken while a bike comes in: held on this page until there is a job that they belong to. */
export function useIntakePhotos() {
  const [taken, setTaken] = useState<{ url: string; picture: Blob }[]>([]);
  const [unreadable, setUnreadable] = useState(false);
  const [left, setLeft] = useState<{ job: string; error: unknown }>();
  const [sending, setSending] = useState<string>();
  const shown = useRef(taken);
  shown.current = taken;
  useEffect(() => () => shown.current.forEach((p) => void URL.revokeObjectURL(p.url)), []);
  // Each picture is a write of its own: it shows in the bar while it waits for the network, and outlives the page.
  const keep = useWrite(({ job, picture }: { job: string; picture: Blob }) => keepPhoto(job, picture), []);
  return {
    taken,
    unreadable,
    left,
    /** The job whose pictures are on their way. */
    sending,
    add: async (file: File | undefined) => {
      if (!file) return;
      try {
        const picture = await smaller(file);
        setUnreadable(false);
        setTaken((all) => [...all, { url: URL.createObjectURL(picture), picture }]);
      } catch {
        setUnreadable(true);
      }
    },
    drop: (url: string) => {
      URL.revokeObjectURL(url);
      setTaken((all) => all.filter((p) => p.url !== url));
    },
    /** Sends what was taken to its job, in turn; says whether all of it is kept. What is not stays here. */
    send: async (job: string) => {
      let error: unknown;
      setSending(job);
      for (const p of shown.current) {
        try {
          await keep.write({ job, picture: p.picture });
          setTaken((all) => all.filter((other) => other !== p));
        } catch (e) {
          error = e;
        }
      }
      setSending(undefined);
      setLeft(error ? { job, error } : undefined);
      return !error;
    },
  };
}

/** Takes pictures of a bike that comes in, with the tablet's camera. */
export function IntakePhotos({ photos, again }: { photos: ReturnType<typeof useIntakePhotos>; again: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div className="flex flex-col gap-2">
      <Button className="self-start" onClick={() => input.current?.click()}>
        Take a photo
      </Button>
      {photos.unreadable && (
        <p role="alert" className="font-semibold text-error">
          This file is not a picture that can be kept.
        </p>
      )}
      {photos.left && (
        <div className="border-l-4 border-error pl-3">
          <p className="font-semibold">
            The bike is booked in, and{" "}
            {photos.taken.length === 1 ? "one photo is" : `${photos.taken.length} photos are`} not kept yet.
          </p>
          <Failure error={photos.left.error} again={again} />
        </div>
      )}
      {photos.taken.length > 0 && (
        <ul className="flex flex-wrap gap-1.5" aria-label="Photos">
          {photos.taken.map((p, i) => (
            <li key={p.url} className="relative">
              <img src={p.url} alt={`Taken, number ${i + 1}`} className="h-20 rounded-field border border-base-300" />
              <Button
                className="absolute right-0 bottom-0 px-2"
                aria-label={`Leave out photo ${i + 1}`}
                onClick={() => photos.drop(p.url)}
              >
                ×
              </Button>
            </li>
          ))}
        </ul>
      )}
      <FileInput
        ref={input}
        name="intake_photo"
        accept="image/*"
        capture="environment"
        aria-label="Photo of the bike"
        onChange={(e) => {
          void photos.add(e.target.files?.[0]);
          e.target.value = ""; // the same file may be chosen again
        }}
      />
    </div>
  );
}
