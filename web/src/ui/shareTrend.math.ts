/** Shares of clean notes over time as a small drawing: where its points stand. */

export interface ShareAt {
  percent: number;
  /** What it may be, of so few notes: the ends of its 95 % interval. */
  low: number;
  high: number;
}

/** From this share on a drill counts as clean: the ladder's limit. */
export const CLEAN_PERCENT = 95;
/** Under this share points stand on the floor: how bad it is says the figure beside it. */
const FLOOR_PERCENT = 40;
const PAD = 3;

export interface TrendPoint {
  x: number;
  y: number;
  top: number;
  bottom: number;
  /** Surely not clean: its whole interval lies under the limit. */
  under: boolean;
}

export function yOf(percent: number, heightPx: number): number {
  const share = (Math.max(FLOOR_PERCENT, Math.min(100, percent)) - FLOOR_PERCENT) / (100 - FLOOR_PERCENT);
  return PAD + (1 - share) * (heightPx - 2 * PAD);
}

/** One place a slot, none where nothing was judged. */
export function trendPoints(
  shares: (ShareAt | null)[],
  widthPx: number,
  heightPx: number,
): (TrendPoint | null)[] {
  const step = shares.length > 1 ? (widthPx - 2 * PAD) / (shares.length - 1) : 0;
  return shares.map((share, i) =>
    share === null
      ? null
      : {
          x: shares.length > 1 ? PAD + i * step : widthPx / 2,
          y: yOf(share.percent, heightPx),
          top: yOf(share.high, heightPx),
          bottom: yOf(share.low, heightPx),
          under: isUnder(share),
        },
  );
}

export function isUnder(share: ShareAt): boolean {
  return share.high < CLEAN_PERCENT;
}

export function shareWords(share: ShareAt): string {
  return `${share.percent.toFixed(0)} % (${share.low.toFixed(0)} to ${share.high.toFixed(0)})`;
}
