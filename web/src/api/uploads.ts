// Sending a file in pieces: it goes on where it stopped, tells how far it is, and can be cancelled.
import { api, data, Refused } from "./client";
import type { UploadInfo } from "./schema";

const PIECE = 4 * 1024 * 1024;
const PATIENCE = 5;
const EDGE = 256 * 1024;

async function sendPiece(id: string, at: number, piece: Blob): Promise<UploadInfo> {
  return data(
    api.PUT("/api/uploads/{upload}", {
      params: { path: { upload: id }, query: { at: String(at) } },
      body: piece as never,
      bodySerializer: (body: unknown) => body as Blob,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );
}

const later = (milliseconds: number) => new Promise((go) => setTimeout(go, milliseconds));

/** A checksum of how a file begins and ends, by which the server knows one again that had not arrived whole. */
async function markOf(file: File): Promise<string> {
  const ends = new Blob([file.slice(0, EDGE), file.slice(Math.max(file.size - EDGE, 0))]);
  const digest = await crypto.subtle.digest("SHA-256", await ends.arrayBuffer());
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** Sends a file; ``told`` hears after each piece. After a lost connection it asks how much has come, and goes on there. */
export async function sendFile(file: File, game: string, told: (upload: UploadInfo) => void, signal: AbortSignal): Promise<UploadInfo> {
  let upload = await data(api.POST("/api/uploads", { body: { game, name: file.name, size: file.size, mark: await markOf(file) } }));
  let failures = 0;
  while (upload.received < file.size && !signal.aborted) {
    try {
      upload = await sendPiece(upload.id, upload.received, file.slice(upload.received, upload.received + PIECE));
      failures = 0;
    } catch (error) {
      if ((error instanceof Refused && error.status !== 409) || ++failures > PATIENCE) throw error;
      await later(400 * 2 ** failures);
      upload = await lookAt(upload.id);
    }
    told(upload);
  }
  if (signal.aborted) await cancelUpload(upload.id);
  return upload;
}

export const lookAt = (id: string) => data(api.GET("/api/uploads/{upload}", { params: { path: { upload: id } } }));
export const cancelUpload = (id: string) => data(api.DELETE("/api/uploads/{upload}", { params: { path: { upload: id } } }));

/** Waits until an upload has been looked into. */
export async function judged(upload: UploadInfo, signal: AbortSignal): Promise<UploadInfo> {
  let found = upload;
  while ((found.state === "looking" || found.state === "receiving") && !signal.aborted) {
    await later(300);
    found = await lookAt(found.id);
  }
  return found;
}
