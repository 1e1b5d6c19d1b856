/** Where everything of a small drawing of the neck stands: strings, frets, fingers, and what keeps each string quiet. Pure. */
import type { Schemas } from "~/api/client";

export type Posture = Schemas["Posture"];

export const NECK = {
  width: 300,
  top: 14,
  stringGap: 17,
  /** Room for the strings' numbers, the neck, and the picking hand. */
  left: 20,
  neck: 196,
  bottom: 20,
};
const LEAST_FRETS = 4;
/** A finger stands close behind its wire. */
const BEHIND = 0.22;

export interface NeckFinger {
  x: number;
  y: number;
  label: string;
  tapped: boolean;
}

/** Something that lies over strings: from y to y at x. */
export interface NeckCover {
  kind: "flat" | "pad" | "tip" | "idle" | "thumb" | "bend" | "slide";
  x: number;
  fromY: number;
  toY: number;
  label: string;
}

/** Part of the picking hand, beside the strings it quiets. */
export interface NeckHand {
  kind: "palm" | "free_fingers" | "picking_finger";
  x: number;
  fromY: number;
  toY: number;
  words: readonly [string, string];
}

export interface NeckLayout {
  width: number;
  height: number;
  strings: { y: number; number: number; thick: number; sounds: boolean; reached: boolean }[];
  frets: { x: number; number: number }[];
  /** The nut, where it is in sight. */
  nut: number | null;
  fromX: number;
  toX: number;
  fingers: NeckFinger[];
  covers: NeckCover[];
  hands: NeckHand[];
  open: { x: number; y: number }[];
  /** Which way the bent string moves: an arrow from y to y. */
  push: { x: number; fromY: number; toY: number } | null;
}

/** Two lines each: there is little room. */
const HAND_WORDS: Record<NeckHand["kind"], readonly [string, string]> = {
  palm: ["side of", "the thumb"],
  free_fingers: ["free", "fingers"],
  picking_finger: ["first", "finger"],
};

/** The fret under the first finger. */
export function handFret(posture: Posture): number | null {
  const frets = posture.held.flatMap((h) =>
    h.fret > 0 && h.finger && /^[1-4]$/.test(h.finger) ? h.fret - Number(h.finger) + 1 : [],
  );
  return frets.length > 0 ? Math.max(1, Math.min(...frets)) : null;
}

/** Frets in sight: those that are pressed with one on either side, four at least. */
export function fretsShown(posture: Posture): readonly [number, number] {
  const pressed = posture.held.map((h) => h.fret).filter((f) => f > 0);
  const hand = handFret(posture);
  if (hand !== null) pressed.push(hand);
  if (pressed.length === 0) return [0, LEAST_FRETS];
  const from = Math.max(0, Math.min(...pressed) - 2);
  return [from, Math.max(from + LEAST_FRETS, Math.max(...pressed) + 1)];
}

export function layoutNeck(posture: Posture, strings: number, leftHanded = false): NeckLayout {
  const { width, top, stringGap, left, neck, bottom } = NECK;
  const height = top + (strings - 1) * stringGap + bottom;
  const [from, to] = fretsShown(posture);
  const place = (fret: number) => 1 - 2 ** (-fret / 12);
  const span = place(to) - place(from);
  const plain = (fret: number) => left + (neck * (place(fret) - place(from))) / span;
  const turned = (x: number) => (leftHanded ? width - x : x);
  const xOf = (fret: number) => turned(plain(fret));
  const yOf = (string: number) => top + (string - 1) * stringGap;
  /** Just behind a wire, on the side of the nut. */
  const behind = (fret: number) =>
    turned(plain(fret) - BEHIND * (plain(fret) - plain(Math.max(from, fret - 1))));
  const shown: number[] = [];
  for (let fret = from; fret <= to; fret += 1) shown.push(fret);
  const sounding = new Set(posture.sounding);
  const unreached = new Set(posture.unreachable);
  const slide = posture.held.filter((h) => h.finger === "slide");
  const layout: NeckLayout = {
    width,
    height,
    strings: Array.from({ length: strings }, (_, i) => ({
      y: yOf(i + 1),
      number: i + 1,
      thick: 0.6 + (1.5 * i) / Math.max(1, strings - 1),
      sounds: sounding.has(i + 1),
      reached: !unreached.has(i + 1),
    })),
    frets: shown.filter((f) => f > from || from > 0).map((number) => ({ x: xOf(number), number })),
    nut: from === 0 ? xOf(0) : null,
    fromX: turned(left),
    toX: turned(left + neck),
    fingers: posture.held
      .filter((h) => h.fret > 0 && h.finger !== "slide")
      .map((h) => ({
        x: behind(h.fret),
        y: yOf(h.string),
        label: h.finger === "tap" ? "t" : h.finger === "thumb" ? "T" : (h.finger ?? ""),
        tapped: h.finger === "tap",
      })),
    covers: slide.map((h) => h.fret).length ? [slideOf(slide, xOf, yOf)] : [],
    hands: [],
    push: null,
    open: posture.held.filter((h) => h.fret === 0).map((h) => ({ x: turned(left - 6), y: yOf(h.string) })),
  };
  const bent = posture.pushed ? layout.fingers[0] : undefined;
  if (bent) {
    const way = posture.pushed === "toward_thicker" ? 1 : -1;
    const away = leftHanded ? 1 : -1;
    layout.push = { x: bent.x + away * 13, fromY: bent.y, toY: bent.y + way * stringGap * 1.3 };
  }
  for (const [key, quiet] of grouped(posture)) {
    const [part, finger] = key.split(" ") as [string, string];
    const ys = quiet.map(yOf);
    const [fromY, toY] = [Math.min(...ys), Math.max(...ys)];
    if (part === "palm" || part === "free_fingers" || part === "picking_finger") {
      layout.hands.push({ kind: part, x: turned(left + neck + 12), fromY, toY, words: HAND_WORDS[part] });
      continue;
    }
    const own = posture.held.find((h) => h.finger === finger && h.fret > 0);
    const hand = handFret(posture) ?? 1;
    const at = own
      ? behind(own.fret)
      : behind(part === "idle_finger" ? hand + Number(finger) - 1 || hand : hand);
    const kinds: Record<string, NeckCover["kind"]> = {
      underside: "flat",
      pad: "pad",
      tip: "tip",
      idle_finger: "idle",
      thumb_over: "thumb",
      bending_finger: "bend",
    };
    const kind = kinds[part];
    if (kind === undefined) continue;
    // What grows out of a finger that holds a note begins at that note.
    const reach = own && kind !== "idle" && kind !== "thumb" ? [...ys, yOf(own.string)] : ys;
    layout.covers.push({
      kind,
      x: at,
      fromY: Math.min(...reach),
      toY: Math.max(...reach),
      label: kind === "thumb" ? "T" : own || finger === "" ? "" : finger,
    });
  }
  return layout;
}

function slideOf(
  held: readonly { fret: number; string: number }[],
  xOf: (fret: number) => number,
  yOf: (string: number) => number,
): NeckCover {
  const ys = held.map((h) => yOf(h.string));
  const middle = held.reduce((sum, h) => sum + h.fret, 0) / held.length;
  return { kind: "slide", x: xOf(middle), fromY: Math.min(...ys), toY: Math.max(...ys), label: "" };
}

/** Strings by who keeps them quiet. */
function grouped(posture: Posture): Map<string, number[]> {
  const found = new Map<string, number[]>();
  for (const damper of posture.quiet) {
    const key = `${damper.part} ${damper.finger ?? ""}`;
    found.set(key, [...(found.get(key) ?? []), damper.string]);
  }
  return found;
}

/** The drawing in words. */
export function neckWords(posture: Posture): string {
  const held = posture.held.map((h) => {
    if (h.fret === 0) return `string ${h.string} open`;
    const who = h.finger === "slide" ? "the slide" : h.finger ? `finger ${h.finger}` : "a finger";
    return `${who} on string ${h.string}, fret ${h.fret}`;
  });
  const first = posture.held[0];
  if (first && posture.pushed)
    held.push(
      `string ${first.string} is pushed toward the ${posture.pushed === "toward_thicker" ? "thicker" : "thinner"} strings`,
    );
  return [held.length > 0 ? `${held.join("; ")}.` : "No string is held.", ...posture.says].join(" ");
}
