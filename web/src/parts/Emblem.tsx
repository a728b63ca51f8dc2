// An emblem of its own for every mod and pack without a picture, from its slug and a few heraldic shapes.
import { EMBLEM_COLOURS } from "../theme";

function numbers(slug: string): (below: number) => number {
  let state = 2166136261;
  for (const character of slug) state = Math.imul(state ^ (character.codePointAt(0) ?? 0), 16777619);
  return (below) => {
    state = Math.imul(state ^ (state >>> 15), 2246822519) + 0x9e3779b9;
    return ((state ^ (state >>> 13)) >>> 0) % below;
  };
}

const DIVISIONS = [
  "",
  "M0 0H16V36H0Z",
  "M0 0H32V17H0Z",
  "M0 0H32L0 36Z",
  "M0 36L16 15L32 36Z",
  "M0 0H16V17H0ZM16 17H32V36H16Z",
  "M12 0H20V36H12ZM0 13H32V21H0Z",
  "M0 12H32V23H0Z",
  "M0 0H32V9H0Z",
];
const CHARGES = [
  "M16 8L22 17L16 26L10 17Z",
  "M16 11a6 6 0 1 0 .01 0Z",
  "M16 8L18 14.5H25L19.4 18.5L21.5 25L16 21L10.5 25L12.6 18.5L7 14.5H14Z",
  "M9 21q3.5 -5 7 0t7 0v4q-3.5 5 -7 0t-7 0Z",
  "M13 9H19V25H13Z",
  "M10 12H22V18Q22 23 16 26Q10 23 10 18Z",
  "M8 14L16 9L24 14V18L16 13L8 18ZM8 21L16 16L24 21V25L16 20L8 25Z",
];

export function Emblem({ slug, large = 28, hollow = false }: { slug: string; large?: number; hollow?: boolean }) {
  const pick = numbers(slug);
  const field = pick(7);
  const second = (field + 1 + pick(7)) % 8;
  const charge = [7, 1, 5][pick(3)] ?? 7;
  const visible = charge === field || charge === second ? (field === 7 || second === 7 ? 1 : 7) : charge;
  const shape = "M2 2H30V20Q30 29 16 34Q2 29 2 20Z";
  const clip = `emblem-${slug.replace(/[^a-zA-Z0-9]/g, "_")}`;
  const colour = (index: number) => EMBLEM_COLOURS[index] ?? "";
  return (
    <svg width={large} height={(large * 36) / 32} viewBox="0 0 32 36" aria-hidden="true" style={{ flex: "none", display: "block" }}>
      <clipPath id={clip}>
        <path d={shape} />
      </clipPath>
      <g clipPath={`url(#${clip})`} opacity={hollow ? 0.55 : 1}>
        <path d="M0 0H32V36H0Z" fill={colour(field)} />
        <path d={DIVISIONS[pick(DIVISIONS.length)]} fill={colour(second)} />
        <path d={CHARGES[pick(CHARGES.length)]} fill={colour(visible)} stroke={colour(field)} strokeWidth="0.8" />
      </g>
      <path d={shape} fill="none" stroke="currentColor" strokeOpacity="0.55" strokeWidth="1.2" strokeDasharray={hollow ? "3 2" : undefined} />
    </svg>
  );
}

/** The picture of a pack, or its emblem where it has none. */
export function PackMark({ emblem, picture, large = 28 }: { emblem: string; picture: string | null; large?: number }) {
  if (picture === null) return <Emblem slug={emblem} large={large} />;
  return <img src={`/pictures/${picture}`} alt="" width={large} height={large} style={{ flex: "none", display: "block", borderRadius: 4, objectFit: "cover" }} />;
}
