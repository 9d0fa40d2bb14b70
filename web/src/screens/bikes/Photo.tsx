import { useRef, useState } from "react";
import { api, ask, type Bike, type Change } from "../../api/client";
import { Button, FileInput } from "../../ui/controls";
import { Failure } from "../../ui/parts";
import { smaller } from "../../ui/picture";
import { useWrite } from "../../ui/sending";
import { bikeName } from "../../words/bikes";

/** The bike's photo, taken with the tablet's camera or chosen from its files. */
export function Photo({ bike }: { bike: Bike }) {
  const input = useRef<HTMLInputElement>(null);
  const [unreadable, setUnreadable] = useState(false);
  const path = { tag: bike.tag };
  const touches: Change[] = [{ topic: "bike", tag: bike.tag }];
  const keep = useWrite(
    (picture: Blob) =>
      ask(
        api.PUT("/bikes/{tag}/photo", {
          params: { path },
          headers: { "Content-Type": "application/octet-stream" },
          body: picture as unknown as string, // the contract's word for bytes
          bodySerializer: (b) => b,
        }),
      ),
    touches,
  );
  const remove = useWrite(() => ask(api.DELETE("/bikes/{tag}/photo", { params: { path } })), touches);
  const choose = async (file: File | undefined) => {
    if (!file) return;
    try {
      setUnreadable(false);
      keep.mutate(await smaller(file));
    } catch {
      setUnreadable(true);
    }
  };
  return (
    <figure className="flex flex-col gap-2">
      {bike.photo_at && (
        <img
          src={`/api/v1/bikes/${bike.tag}/photo?at=${encodeURIComponent(bike.photo_at)}`}
          alt={bikeName(bike.facts)}
          className="max-h-64 w-full rounded-field bg-base-200 object-contain"
        />
      )}
      {unreadable && (
        <p role="alert" className="font-semibold text-error">
          This file is not a picture that can be shown here.
        </p>
      )}
      {keep.isError && <Failure error={keep.error} />}
      {remove.isError && <Failure error={remove.error} />}
      {!bike.archived && (
        <figcaption className="no-print flex flex-wrap gap-2">
          <Button
            kind={bike.photo_at ? "plain" : "quiet"}
            className={bike.photo_at ? "grow" : "-ml-4 text-note"}
            disabled={keep.isPending}
            onClick={() => input.current?.click()}
          >
            {keep.isPending ? "Sending…" : bike.photo_at ? "Another photo" : "Take a photo"}
          </Button>
          {bike.photo_at && (
            <Button
              kind="quiet"
              className="text-note"
              disabled={remove.isPending}
              onClick={() => remove.mutate(undefined)}
            >
              Take it away
            </Button>
          )}
          <FileInput
            ref={input}
            name="photo"
            accept="image/*"
            capture="environment"
            aria-label="Photo of the bike"
            onChange={(e) => {
              void choose(e.target.files?.[0]);
              e.target.value = ""; // the same file may be chosen again
            }}
          />
        </figcaption>
      )}
    </figure>
  );
}
