/** What strips and tab are drawn of: paths, how they look, and the figures beside them. */

/** A path and how it looks. */
export interface Mark {
  d: string;
  stroke?: string;
  fill?: string;
  width?: number;
  opacity?: number;
  dash?: string | undefined;
}

/** A figure that stands beside a mark. */
export interface Label {
  x: number;
  y: number;
  text: string;
  colour: string;
  middle?: boolean;
}

const px = (value: number) => +value.toFixed(2);

export const lineFrom = (x1: number, y1: number, x2: number, y2: number) =>
  `M${px(x1)} ${px(y1)}L${px(x2)} ${px(y2)}`;

export const box = (x: number, y: number, width: number, height: number) =>
  `M${px(x)} ${px(y)}h${px(width)}v${px(height)}h${px(-width)}z`;

export const dot = (x: number, y: number, radius: number) =>
  `M${px(x - radius)} ${px(y)}a${radius} ${radius} 0 1 0 ${2 * radius} 0a${radius} ${radius} 0 1 0 ${-2 * radius} 0z`;
