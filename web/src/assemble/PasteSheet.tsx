// Many at once: any text is pasted or dropped, each line says what it was taken for, then one preview for all together.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { useState, type DragEvent } from "react";
import { recognise } from "../api/queries";
import type { Pasted, Recognised } from "../api/schema";
import { Mono, Problem, Sheet, Waiting } from "../parts/common";
import { GradeMark } from "../parts/marks";
import { count } from "../parts/words";
import { AddPanel } from "./AddPanel";
import type { Desk } from "./desk";

const GRADES = { found: "fine", already: "note", twice: "note", unknown: "caution", unreadable: "stop" } as const;
const EXAMPLE = "Better Buoys\nhttps://mods.example/deep-chart\npkg:generic/tidewrack/galley@1.3.0\n[20:14] Idris: try Net and Line, it is good";

interface Choice {
  mod?: string;
  version?: string;
}

export function PasteSheet({ desk }: { desk: Desk }) {
  const [text, setText] = useState("");
  const [choices, setChoices] = useState<Record<number, Choice>>({});
  const [confirming, setConfirming] = useState(false);
  const read = useMutation({ mutationFn: (given: string) => recognise(desk.draft.slug, given) });
  const look = (given: string) => {
    setChoices({});
    setConfirming(false);
    read.mutate(given);
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    const [file] = event.dataTransfer.files;
    const put = (given: string) => (setText(given), look(given));
    if (file) void file.text().then(put);
    else put(event.dataTransfer.getData("text"));
  };
  const lines = read.data?.lines ?? [];
  const meant = lines.map((line) => ({ line, mod: choices[line.number]?.mod ?? (line.answer === "found" ? line.mod : null) }));
  const mods = [...new Set(meant.flatMap(({ mod }) => (mod ? [mod] : [])))];
  const versions = Object.fromEntries(meant.flatMap(({ line, mod }) => {
    const version = choices[line.number]?.version ?? line.version;
    return mod && version ? [[mod, version]] : [];
  }));
  return (
    <Sheet title="Add many at once" onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Box onDragOver={(event) => event.preventDefault()} onDrop={drop}>
        <TextField
          fullWidth
          multiline
          minRows={4}
          maxRows={10}
          autoFocus
          label="Links, names, Package-URLs, a table, lines from a chat"
          placeholder={EXAMPLE}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onPaste={(event) => {
            const pasted = event.clipboardData.getData("text");
            if (!text && pasted.includes("\n")) setTimeout(() => look(pasted));
          }}
          helperText="One on a line. A text file can be dropped here."
        />
        <Button variant="contained" sx={{ my: 1 }} disabled={!text.trim() || read.isPending} onClick={() => look(text)}>Look at the lines</Button>
      </Box>
      <Problem error={read.error} />
      {read.isPending && <Waiting what="Looking the lines up" />}
      {read.data && <Lines pasted={read.data} choices={choices} onChoose={(number, choice) => setChoices((before) => ({ ...before, [number]: { ...before[number], ...choice } }))} />}
      {read.data && mods.length > 0 && !confirming && (
        <Button variant="contained" sx={{ mt: 1.5 }} onClick={() => setConfirming(true)}>See what {count(mods.length, "mod")} would bring</Button>
      )}
      {confirming && <AddPanel desk={desk} mods={mods} versions={versions} onDone={desk.close} />}
    </Sheet>
  );
}

function Lines({ pasted, choices, onChoose }: { pasted: Pasted; choices: Record<number, Choice>; onChoose: (number: number, choice: Choice) => void }) {
  const tally = (answer: Recognised["answer"]) => pasted.lines.filter((line) => line.answer === answer).length;
  const open = tally("unknown") + tally("unreadable");
  const words = [`${tally("found")} recognised`, tally("already") ? `${tally("already")} already in` : "", tally("twice") ? `${tally("twice")} twice` : "", open ? `${open} not recognised` : ""].filter(Boolean).join(", ");
  if (pasted.lines.length === 0) return <Typography>There is no name in this text.</Typography>;
  return (
    <>
      <Typography variant="body2" role="status" sx={{ fontWeight: 600 }}>{words}</Typography>
      <Box component="ul" aria-label="Lines" sx={{ listStyle: "none", m: 0, p: 0, borderTop: 1, borderColor: "divider" }}>
        {pasted.lines.map((line) => <Row key={line.number} line={line} names={pasted.names} choice={choices[line.number] ?? {}} onChoose={(choice) => onChoose(line.number, choice)} />)}
      </Box>
    </>
  );
}

function Row({ line, names, choice, onChoose }: { line: Recognised; names: Record<string, string>; choice: Choice; onChoose: (choice: Choice) => void }) {
  const chosen = choice.mod;
  return (
    <Box component="li" data-line={line.number} data-answer={line.answer} sx={{ display: "flex", gap: 1, py: 0.6, borderBottom: 1, borderColor: "divider", alignItems: "start" }}>
      <Box sx={{ pt: 0.3 }}><GradeMark grade={chosen ? "fine" : GRADES[line.answer]} label={line.answer} /></Box>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="body2" sx={{ overflowWrap: "anywhere" }}>
          <b>{line.mod ? line.name : chosen ? names[chosen] : ""}</b>{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>{line.text}</Box>
        </Typography>
        {line.note && !chosen && <Typography variant="caption" component="div">{line.note}</Typography>}
        {line.near.length > 0 && (
          <Box sx={{ display: "flex", gap: 0.75, flexWrap: "wrap", mt: 0.25 }}>
            {line.near.map((slug) => (
              <Button key={slug} variant={chosen === slug ? "contained" : "outlined"} sx={{ py: 0 }} onClick={() => onChoose({ mod: chosen === slug ? undefined : slug })}>{names[slug] ?? slug}</Button>
            ))}
          </Box>
        )}
      </Box>
      {line.answer === "found" && (
        <TextField select value={choice.version ?? line.version ?? ""} onChange={(event) => onChoose({ version: event.target.value })} sx={{ width: 130 }} slotProps={{ htmlInput: { "aria-label": `Build of ${line.name}` }, select: { displayEmpty: true } }}>
          <MenuItem value="">best fit</MenuItem>
          {line.versions.map((version) => <MenuItem key={version} value={version}><Mono>{version}</Mono></MenuItem>)}
        </TextField>
      )}
    </Box>
  );
}
