// The road: releases as milestones on a line, oldest left, and every rig as a shape at the milestone it is on.
import Box from "@mui/material/Box";
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import type { RigOnRoad, Road } from "../api/schema";
import { MONO } from "../theme";
import { RigShape, STATE_COLOUR } from "./marks";
import { count } from "./words";

const SHOWN = 7;

interface Props {
  road: Road;
  small?: boolean;
  selected?: number | null;
  onOpen?: (rig: RigOnRoad) => void;
}

function useWidth(): [React.RefObject<HTMLDivElement | null>, number] {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!box.current) return;
    const observer = new ResizeObserver(([entry]) => setWidth(entry?.contentRect.width ?? 0));
    observer.observe(box.current);
    return () => observer.disconnect();
  }, []);
  return [box, width];
}

interface Spot {
  x: number;
  y: number;
  rig: RigOnRoad;
}

/** Where each rig stands: rows that grow upward from the line, strayed ones below the labels. */
function spots(rigs: RigOnRoad[], x: number, room: number, step: number, below: number): Spot[] {
  const perRow = Math.max(1, Math.floor(room / step));
  const place = (list: RigOnRoad[], y: (row: number) => number) =>
    list.map((rig, i) => {
      const row = Math.floor(i / perRow);
      const inRow = Math.min(perRow, list.length - row * perRow);
      return { rig, x: x + ((i % perRow) - (inRow - 1) / 2) * step, y: y(row) };
    });
  const onLine = rigs.filter((rig) => rig.state !== "strayed");
  const strayed = rigs.filter((rig) => rig.state === "strayed");
  return [...place(onLine, (row) => -row * step), ...place(strayed, (row) => below + row * step)];
}

export function summary(road: Road): string {
  const inStep = road.rigs.filter((rig) => rig.state === "in step").length;
  return road.rigs.length ? `${inStep} of ${road.rigs.length} in step` : "no rigs yet";
}

export function RoadView({ road, small = false, selected = null, onOpen }: Props) {
  const [box, width] = useWidth();
  const shown = road.milestones.slice(-SHOWN);
  const hidden = road.milestones.length - shown.length;
  const waitingAtStart = road.rigs.some((rig) => rig.at === "");
  const early = hidden > 0 || waitingAtStart;
  const columns = [...(early ? [""] : []), ...shown.map((milestone) => milestone.version)];
  const labels = new Map(shown.map((milestone) => [milestone.version, milestone]));
  const scale = small ? 0.62 : 1;
  const step = 26 * scale;
  const gap = columns.length ? width / columns.length : width;
  const below = small ? 30 : 56;
  const all = columns.flatMap((version, i) =>
    spots(
      road.rigs.filter((rig) => rig.at === version || (version === "" && !labels.has(rig.at))),
      gap * (i + 0.5),
      gap - 12,
      step,
      below,
    ),
  );
  const up = Math.max(step, -Math.min(0, ...all.map((spot) => spot.y)) + 16 * scale);
  const down = Math.max(small ? 20 : 44, ...all.map((spot) => spot.y + 14 * scale));
  const words = `${count(road.milestones.length, "release")}, ${summary(road)}`;
  return (
    <Box ref={box} sx={{ width: "100%", minHeight: small ? 40 : 110 }}>
      {width > 0 && columns.length > 0 && (
        <svg width={width} height={up + down} role={onOpen ? "group" : "img"} aria-label={words}>
          <g transform={`translate(0 ${up})`}>
            <Box component="g" sx={{ color: "secondary.light" }}>
              <line x1={0} x2={width} y1={0} y2={0} stroke="currentColor" strokeWidth={small ? 1.5 : 2.5} />
            </Box>
            {columns.map((version, i) => (
              <Milestone key={version || "start"} x={gap * (i + 0.5)} version={version} target={labels.get(version)?.target ?? false} small={small} early={hidden > 0} />
            ))}
            {all.map(({ rig, x, y }) => (
              <RigOnLine key={rig.id} rig={rig} x={x} y={y} scale={scale} selected={rig.id === selected} onOpen={onOpen} />
            ))}
          </g>
        </svg>
      )}
    </Box>
  );
}

function Milestone({ x, version, target, small, early }: { x: number; version: string; target: boolean; small: boolean; early: boolean }) {
  const label = version || (early ? "earlier" : "not filled yet");
  return (
    <Box component="g" transform={`translate(${x} 0)`} sx={{ color: target ? "primary.main" : "text.secondary" }}>
      <line y1={-4} y2={small ? 5 : 12} stroke="currentColor" strokeWidth={target ? 3 : 1.5} />
      <text y={small ? 17 : 30} textAnchor="middle" fill="currentColor" fontFamily={MONO} fontSize={small ? 10.5 : 14} fontWeight={target ? 700 : 400}>
        {label}
      </text>
    </Box>
  );
}

function RigOnLine({ rig, x, y, scale, selected, onOpen }: { rig: RigOnRoad; x: number; y: number; scale: number; selected: boolean; onOpen?: (rig: RigOnRoad) => void }) {
  const words = `${rig.name}${rig.person && rig.person !== rig.name ? ` (${rig.person})` : ""}: ${rig.state}${rig.at ? `, on ${rig.at}` : ""}`;
  const open = onOpen && (() => onOpen(rig));
  const keys = open && ((event: KeyboardEvent) => (event.key === "Enter" || event.key === " ") && (event.preventDefault(), open()));
  return (
    <Box
      component="g"
      transform={`translate(${x} ${y}) scale(${scale})`}
      role={open ? "button" : undefined}
      tabIndex={open ? 0 : undefined}
      aria-label={open ? words : undefined}
      onClick={open}
      onKeyDown={keys}
      sx={{ color: STATE_COLOUR[rig.state], cursor: open ? "pointer" : undefined, "&:focus-visible": { outline: "none", "& .ring": { opacity: 1 } } }}
    >
      <title>{words}</title>
      <Box component="circle" className="ring" r={15} fill="none" stroke="currentColor" strokeWidth={1.5} sx={{ opacity: selected ? 1 : 0 }} />
      <Box component="circle" r={11} sx={{ fill: "var(--mui-palette-background-default)" }} />
      <RigShape state={rig.state} side={rig.side} />
    </Box>
  );
}
