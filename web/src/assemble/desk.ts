// What every screen that changes a draft works with: the draft, making edits, undo and redo, and the open sheet.
import { useState } from "react";
import { useOutletContext } from "react-router";
import { Refused, sentence } from "../api/client";
import { useEdit, useStepBack, type Edit } from "../api/queries";
import type { Draft } from "../api/schema";
import { useAddress } from "../parts/address";
import { useKeys } from "../parts/keys";

export interface Desk {
  draft: Draft;
  others: string[];
  /** Whether the reader may change the draft. */
  mayEdit: boolean;
  make: (edit: Edit) => void;
  /** Turns entries off; where others depend on them, these are shown first. */
  turnOff: (mods: string[]) => void;
  open: (changes: Record<string, string | null>) => void;
  close: () => void;
  wide: boolean;
  onWide: () => void;
}

export interface Refusal {
  about: string[];
  why: string;
  /** Where somebody else changed the same: both values, and the edit that was not made. */
  clash: { by: string; theirs: string; yours: string } | null;
  edit: Edit | null;
}

function clashOf(error: unknown): Refusal["clash"] {
  if (!(error instanceof Refused) || error.problem.code !== "clash") return null;
  const { by, theirs, yours } = error.problem.facts as Record<string, unknown>;
  return { by: String(by), theirs: String(theirs), yours: String(yours) };
}

export function useDesk() {
  const { draft, others } = useOutletContext<{ draft: Draft; others: string[] }>();
  const [, change] = useAddress();
  const [wide, setWide] = useState(false);
  const [refused, setRefused] = useState<Refusal | null>(null);
  const edit = useEdit(draft.slug);
  const undo = useStepBack(draft.slug, "undo");
  const redo = useStepBack(draft.slug, "redo");
  const mayEdit = draft.role !== "member";
  const open = (changes: Record<string, string | null>) =>
    change((next) => {
      for (const [key, value] of Object.entries(changes)) {
        if (value === null || value === "") next.delete(key);
        else next.set(key, value);
      }
    });
  const failed = (about: string[], change: Edit | null) => ({
    onSuccess: () => setRefused(null),
    onError: (error: unknown) => setRefused({ about, why: sentence(error), clash: clashOf(error), edit: change }),
  });
  const make = (change: Edit) => edit.mutate(change, failed("mod" in change ? [change.mod] : [], change));
  const stepBack = (way: typeof undo) => way.mutate(draft.revision, failed([], null));
  const turnOff = (mods: string[]) => {
    const entries = draft.entries.filter((entry) => mods.includes(entry.mod) && entry.enabled);
    const names = entries.map((entry) => entry.name);
    if (entries.some((entry) => entry.required_by.some((other) => !names.includes(other)))) return open({ sheet: "off", sel: mods.join(",") });
    const edits = entries.map((entry): Edit => ({ do: "set-enabled", mod: entry.mod, enabled: false }));
    const [first] = edits;
    if (first) make(edits.length === 1 ? first : { do: "several", edits: edits as never, label: `turned off ${edits.length} entries` });
  };
  const desk: Desk = { draft, others, mayEdit, make, turnOff, open, close: () => open({ sheet: null, sel: null }), wide, onWide: () => setWide(!wide) };
  useKeys({
    u: () => mayEdit && draft.undo !== null && stepBack(undo),
    U: () => mayEdit && draft.redo !== null && stepBack(redo),
    Escape: desk.close,
  });
  const onAgain = () => {
    const again = refused?.edit;
    setRefused(null);
    if (again) make(again);
  };
  return { desk, refused, forget: () => setRefused(null), onAgain, onUndo: () => stepBack(undo), onRedo: () => stepBack(redo) };
}
