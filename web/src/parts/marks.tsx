// Marks whose shape says what they mean; colour only repeats it.
import Box from "@mui/material/Box";
import type { State } from "../api/schema";

const GRADES = {
  stop: { path: "M5 1H11L15 5V11L11 15H5L1 11V5Z", colour: "error.main" },
  caution: { path: "M8 1.5L15 14.5H1Z", colour: "warning.main" },
  note: { path: "M8 2a6 6 0 1 0 .01 0Z", colour: "info.main" },
  fine: { path: "M2 8.5L6.5 13L14 3.5", colour: "success.main" },
} as const;

export function GradeMark({ grade, label }: { grade: keyof typeof GRADES; label: string }) {
  const { path, colour } = GRADES[grade];
  const line = grade === "note" || grade === "fine";
  return (
    <Box component="svg" viewBox="0 0 16 16" role="img" aria-label={label} sx={{ width: 16, height: 16, flex: "none", color: colour }}>
      <title>{label}</title>
      <path d={path} fill={line ? "none" : "currentColor"} stroke="currentColor" strokeWidth={line ? 2 : 0} />
    </Box>
  );
}

export const STATE_COLOUR: Record<State, string> = {
  "in step": "success.main",
  behind: "secondary.main",
  strayed: "error.main",
  waiting: "info.main",
  silent: "text.secondary",
};

/** The outline of a rig around (0, 0), 16 high: lozenges for players, squares for servers, notched when strayed. */
export function rigPath(state: State, side: string): string {
  if (side === "server") return state === "strayed" ? "M-7 -7H7V7H3L0 2L-3 7H-7Z" : "M-7 -7H7V7H-7Z";
  return state === "strayed" ? "M0 -9L8 0L4 4.5L0 0.5L-4 4.5L-8 0Z" : "M0 -9L8 0L0 9L-8 0Z";
}

export function RigShape({ state, side }: { state: State; side: string }) {
  const outline = state === "silent";
  return (
    <>
      <path
        d={rigPath(state, side)}
        fill={outline ? "none" : "currentColor"}
        stroke="currentColor"
        strokeWidth={outline ? 1.8 : 0.5}
        strokeDasharray={outline ? "3 2" : undefined}
      />
      {state === "waiting" && <path d="M11 -8V8" stroke="currentColor" strokeWidth="2.6" />}
    </>
  );
}

export function StateMark({ state, side = "client", large = 20 }: { state: State; side?: string; large?: number }) {
  return (
    <Box component="svg" viewBox="-14 -11 28 22" aria-hidden="true" sx={{ width: large * 1.27, height: large, flex: "none", color: STATE_COLOUR[state] }}>
      <RigShape state={state} side={side} />
    </Box>
  );
}
