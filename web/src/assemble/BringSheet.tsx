// Files that the catalogue does not have: sent, only recorded, or fetched by each member from a page.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import LinearProgress from "@mui/material/LinearProgress";
import Radio from "@mui/material/Radio";
import RadioGroup from "@mui/material/RadioGroup";
import Typography from "@mui/material/Typography";
import { useRef, useState, type DragEvent } from "react";
import { judged, sendFile } from "../api/uploads";
import { useGames, useOwnMod } from "../api/queries";
import type { UploadInfo } from "../api/schema";
import { Mono, Problem, Sheet } from "../parts/common";
import { FileButton } from "../parts/FileButton";
import { size } from "../parts/words";
import { AddPanel } from "./AddPanel";
import type { Desk } from "./desk";
import { OwnModForm, type OwnModFacts } from "./OwnModForm";

const WAYS = [
  ["send", "Send the file", "It is looked into, and kept where its licence allows that."],
  ["record", "Only record it", "Name, size and checksum; members fetch it from a page."],
] as const;

/** Sending one file: how far it is, and what it was found to be. */
function useSending(game: string) {
  const [file, setFile] = useState<File | null>(null);
  const [upload, setUpload] = useState<UploadInfo | null>(null);
  const [error, setError] = useState<unknown>(null);
  const stop = useRef<AbortController | null>(null);
  const send = async (given: File) => {
    const control = new AbortController();
    stop.current?.abort();
    stop.current = control;
    setFile(given);
    setUpload(null);
    setError(null);
    try {
      const sent = await sendFile(given, game, setUpload, control.signal);
      const known = await judged(sent, control.signal);
      if (!control.signal.aborted) setUpload(known);
    } catch (problem) {
      if (!control.signal.aborted) setError(problem);
    }
  };
  const cancel = () => {
    stop.current?.abort();
    setFile(null);
    setUpload(null);
  };
  return { file, upload, error, send, cancel };
}

export function BringSheet({ desk }: { desk: Desk }) {
  const [way, setWay] = useState("send");
  const [made, setMade] = useState<{ mod: string; version: string } | null>(null);
  const sending = useSending(desk.draft.game);
  const game = useGames().data?.games.find((one) => one.slug === desk.draft.game);
  const keep = useOwnMod(desk.draft.slug);
  const put = (facts: OwnModFacts) => keep.mutate(facts, { onSuccess: setMade });
  const { upload } = sending;
  return (
    <Sheet title="Bring a file" onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      {made ? (
        <Done desk={desk} made={made} onAnother={() => (setMade(null), sending.cancel())} />
      ) : (
        <>
          <RadioGroup value={way} onChange={(event) => (setWay(event.target.value), sending.cancel())} aria-label="How it comes">
            {WAYS.map(([value, label, about]) => (
              <FormControlLabel key={value} value={value} control={<Radio size="small" sx={{ py: 0.5 }} />} label={<Typography variant="body2"><b>{label}.</b> {about}</Typography>} />
            ))}
          </RadioGroup>
          {way === "send" && <Drop onFile={(file) => void sending.send(file)} />}
          <Problem error={sending.error} again={sending.file ? () => sending.file && void sending.send(sending.file) : undefined} />
          {way === "send" && sending.file && <Progress upload={upload} file={sending.file} onCancel={sending.cancel} />}
          {upload?.state === "refused" && <Alert severity="error" sx={{ my: 1 }}>{upload.message}</Alert>}
          {upload?.known && <Known desk={desk} upload={upload} />}
          <Problem error={keep.error} />
          {game && upload?.state === "judged" && upload.proposal && <OwnModForm key={upload.id} game={game} ground={desk.draft} upload={upload} busy={keep.isPending} onPut={put} />}
          {game && way === "record" && <OwnModForm game={game} ground={desk.draft} busy={keep.isPending} onPut={put} />}
        </>
      )}
    </Sheet>
  );
}

function Drop({ onFile }: { onFile: (file: File) => void }) {
  const take = (event: DragEvent) => {
    event.preventDefault();
    const [file] = event.dataTransfer.files;
    if (file) onFile(file);
  };
  return (
    <Box onDragOver={(event) => event.preventDefault()} onDrop={take} sx={{ border: "1px dashed", borderColor: "text.secondary", borderRadius: 1, p: 2, my: 1, textAlign: "center" }}>
      <FileButton variant="contained" label="File to bring" onFile={onFile}>Choose a file</FileButton>
      <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>or drop it here: zip, tar or 7z, up to 4 GB</Typography>
    </Box>
  );
}

function Progress({ upload, file, onCancel }: { upload: UploadInfo | null; file: File; onCancel: () => void }) {
  const received = upload?.received ?? 0;
  if (upload?.state === "judged" || upload?.state === "refused") return <Typography variant="body2" sx={{ mt: 1 }}>{file.name}, <Mono>{size(file.size)}</Mono></Typography>;
  const looking = upload?.state === "looking";
  const words = looking ? `Looking into ${file.name}` : `Sending ${file.name}: ${size(received)} of ${size(file.size)}`;
  return (
    <Box role="status" sx={{ my: 1, display: "flex", gap: 1, alignItems: "center" }}>
      <Box sx={{ flex: 1 }}>
        <Typography variant="body2">{words}</Typography>
        <LinearProgress aria-label={words} variant={looking ? "indeterminate" : "determinate"} value={(100 * received) / Math.max(file.size, 1)} />
      </Box>
      <Button onClick={onCancel}>Cancel</Button>
    </Box>
  );
}

function Known({ desk, upload }: { desk: Desk; upload: UploadInfo }) {
  const { known } = upload;
  if (!known) return null;
  return (
    <Box sx={{ mt: 1.5 }}>
      <Alert severity="success">The catalogue has this file: it is {known.name} {known.version}.</Alert>
      <AddPanel desk={desk} mods={[known.mod]} versions={{ [known.mod]: known.version }} onDone={desk.close} />
    </Box>
  );
}

function Done({ desk, made, onAnother }: { desk: Desk; made: { mod: string; version: string }; onAnother: () => void }) {
  return (
    <>
      <Alert severity="success" sx={{ mb: 1 }}>It stands on the pack's own shelf now. Only the curators of this pack find it there.</Alert>
      <AddPanel desk={desk} mods={[made.mod]} versions={{ [made.mod]: made.version }} onDone={() => desk.open({ sheet: "mod", sel: made.mod })} />
      <Button sx={{ mt: 1 }} onClick={onAnother}>Bring another</Button>
    </>
  );
}
