import { useQueryClient } from "@tanstack/react-query";
import { type RefObject, useRef, useState } from "react";
import { api, ask, type Job } from "../../api/client";
import { FileInput } from "../../ui/controls";
import { Failure } from "../../ui/parts";
import { smaller } from "../../ui/picture";
import { useWrite } from "../../ui/sending";

/** The pictures of a job, small; a tap opens one. */
export function Thumbnails({ job }: { job: Job }) {
  if (job.photos.length === 0) return null;
  return (
    <ul className="flex flex-wrap gap-1.5" aria-label="Photos">
      {job.photos.map((ph) => (
        <li key={ph.id}>
          <a href={`/api/v1/job-photos/${ph.id}`} target="_blank" rel="noreferrer">
            <img
              src={`/api/v1/job-photos/${ph.id}?small=true`}
              alt={`Taken by ${ph.by}`}
              className="h-16 rounded-field border border-base-300"
            />
          </a>
        </li>
      ))}
    </ul>
  );
}

export type PhotoTaking = {
  input: RefObject<HTMLInputElement | null>;
  ask: () => void;
  choose: (file: File | undefined) => Promise<void>;
  unreadable: boolean;
  error: unknown;
  sending: boolean;
};

/** Sends a picture of a job. */
export const keepPhoto = (job: string, picture: Blob) =>
  ask(
    api.POST("/jobs/{job}/photos", {
      params: { path: { job } },
      headers: { "Content-Type": "application/octet-stream" },
      body: picture as unknown as string, // the contract's word for bytes
      bodySerializer: (b) => b,
    }),
  );

/** Takes pictures of a job with the tablet's camera. */
export function usePhoto(job: string): PhotoTaking {
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [unreadable, setUnreadable] = useState(false);
  const send = useWrite(
    async (picture: Blob) => {
      client.setQueryData(["jobs", job], await keepPhoto(job, picture));
    },
    [{ topic: "job" }],
  );
  return {
    input,
    ask: () => input.current?.click(),
    choose: async (file) => {
      if (!file) return;
      try {
        setUnreadable(false);
        send.mutate(await smaller(file));
      } catch {
        setUnreadable(true);
      }
    },
    unreadable,
    error: send.error,
    sending: send.isPending,
  };
}

export function PhotoInput({ photo }: { photo: PhotoTaking }) {
  return (
    <>
      {photo.unreadable && (
        <p role="alert" className="font-semibold text-error">
          This file is not a picture that can be kept.
        </p>
      )}
      {photo.error !== null && photo.error !== undefined && <Failure error={photo.error} />}
      <FileInput
        ref={photo.input}
        name="job_photo"
        accept="image/*"
        capture="environment"
        aria-label="Photo of the job"
        onChange={(e) => {
          void photo.choose(e.target.files?.[0]);
          e.target.value = ""; // the same file may be chosen again
        }}
      />
    </>
  );
}
