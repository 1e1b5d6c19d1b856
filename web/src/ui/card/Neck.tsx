import { useId } from "react";
import { layoutNeck, NECK, type NeckCover, neckWords, type Posture } from "./neck.math";

export interface NeckProps {
  posture: Posture;
  strings: number;
  leftHanded?: boolean;
}

/** A stretch of the neck as one would draw it on paper: who holds which note, and what keeps each other string quiet. */
export function Neck({ posture, strings, leftHanded = false }: NeckProps) {
  const hatch = useId();
  const neck = layoutNeck(posture, strings, leftHanded);
  const last = neck.strings.at(-1)?.y ?? NECK.top;
  const left = Math.min(neck.fromX, neck.toX);
  const right = Math.max(neck.fromX, neck.toX);
  return (
    <svg
      viewBox={`0 0 ${neck.width} ${neck.height}`}
      className="block w-full max-w-[22rem] print:max-w-[16rem]"
      role="img"
      aria-label={neckWords(posture)}
      data-testid="neck"
    >
      <defs>
        <pattern id={hatch} width={5} height={5} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1={0} y1={0} x2={0} y2={5} stroke="var(--ink-soft)" strokeWidth={1} />
        </pattern>
      </defs>
      {neck.frets.map(({ x, number }) => (
        <g key={number}>
          <line x1={x} x2={x} y1={NECK.top} y2={last} stroke="var(--rule-strong)" strokeWidth={1} />
          <text
            x={x}
            y={last + 15}
            textAnchor="middle"
            fontSize={10}
            className="figures"
            fill="var(--ink-soft)"
          >
            {number}
          </text>
        </g>
      ))}
      {neck.nut !== null && (
        <line
          x1={neck.nut}
          x2={neck.nut}
          y1={NECK.top - 1}
          y2={last + 1}
          stroke="var(--ink)"
          strokeWidth={3}
        />
      )}
      {neck.strings.map((string) => (
        <g key={string.number}>
          <line
            x1={left}
            x2={right}
            y1={string.y}
            y2={string.y}
            stroke={string.sounds ? "var(--ink)" : "var(--rule-strong)"}
            strokeWidth={string.thick}
          />
          <text
            x={leftHanded ? neck.width - 4 : 4}
            y={string.y + 3.5}
            textAnchor="middle"
            fontSize={10}
            className="figures"
            fill={string.sounds ? "var(--ink)" : "var(--ink-soft)"}
            fontWeight={string.sounds ? 700 : 400}
          >
            {string.number}
          </text>
          {!string.reached && (
            <text
              x={(left + right) / 2}
              y={string.y + 4}
              textAnchor="middle"
              fontSize={13}
              fontWeight={700}
              fill="var(--ring)"
            >
              ?
            </text>
          )}
        </g>
      ))}
      {neck.covers.map((cover) => (
        <Cover key={`${cover.kind}${cover.x}${cover.fromY}`} cover={cover} hatch={hatch} />
      ))}
      {neck.open.map(({ x, y }) => (
        <circle key={y} cx={x} cy={y} r={3.5} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
      ))}
      {neck.fingers.map((finger) => (
        <g key={`${finger.x}${finger.y}`}>
          {finger.tapped ? (
            <rect x={finger.x - 7.5} y={finger.y - 7.5} width={15} height={15} rx={2} fill="var(--ink)" />
          ) : (
            <ellipse cx={finger.x} cy={finger.y} rx={7} ry={8} fill="var(--ink)" />
          )}
          <text
            x={finger.x}
            y={finger.y + 4}
            textAnchor="middle"
            fontSize={11}
            fontWeight={700}
            fill="var(--paper)"
          >
            {finger.label}
          </text>
        </g>
      ))}
      {neck.push && <Arrow {...neck.push} />}
      {neck.hands.map((hand) => (
        <g key={hand.kind}>
          <rect
            x={leftHanded ? hand.x - 8 : hand.x}
            y={hand.fromY - 6}
            width={8}
            height={hand.toY - hand.fromY + 12}
            rx={4}
            fill={`url(#${hatch})`}
            stroke="var(--ink-soft)"
          />
          {hand.words.map((word, line) => (
            <text
              key={word}
              x={leftHanded ? hand.x - 12 : hand.x + 12}
              y={(hand.fromY + hand.toY) / 2 - 2 + 11 * line}
              textAnchor={leftHanded ? "end" : "start"}
              fontSize={9.5}
              fill="var(--ink)"
            >
              {word}
            </text>
          ))}
        </g>
      ))}
    </svg>
  );
}

function Arrow({ x, fromY, toY }: { x: number; fromY: number; toY: number }) {
  const way = Math.sign(toY - fromY);
  return (
    <path
      d={`M ${x} ${fromY} V ${toY} M ${x - 3} ${toY - 4 * way} L ${x} ${toY} L ${x + 3} ${toY - 4 * way}`}
      fill="none"
      stroke="var(--ink)"
      strokeWidth={1.5}
    />
  );
}

/** What lies over strings: a flat finger hatched, an idle one dashed, a tip as a short wedge, the slide as a tube. */
function Cover({ cover, hatch }: { cover: NeckCover; hatch: string }) {
  const { x, fromY, toY, kind } = cover;
  if (kind === "tip" || kind === "bend")
    return (
      <path
        d={`M ${x - 4} ${fromY} L ${x} ${toY} L ${x + 4} ${fromY}`}
        fill={kind === "tip" ? "var(--ink)" : "none"}
        stroke="var(--ink)"
        strokeDasharray={kind === "bend" ? "2 2" : undefined}
      />
    );
  if (kind === "slide")
    return (
      <rect
        x={x - 5}
        y={fromY - 10}
        width={10}
        height={toY - fromY + 20}
        rx={5}
        fill="var(--paper)"
        stroke="var(--ink)"
        strokeWidth={2}
      />
    );
  if (kind === "thumb")
    return (
      <g>
        <path
          d={`M ${x - 9} ${toY + 11} Q ${x} ${toY - 9} ${x + 9} ${toY + 11}`}
          fill="var(--paper)"
          stroke="var(--ink)"
        />
        <text x={x} y={toY + 9} textAnchor="middle" fontSize={9} fill="var(--ink)">
          T
        </text>
      </g>
    );
  return (
    <g>
      <rect
        x={x - 5.5}
        y={fromY - 7}
        width={11}
        height={toY - fromY + 14}
        rx={5.5}
        fill={`url(#${hatch})`}
        stroke="var(--ink-soft)"
        strokeDasharray={kind === "idle" ? "3 2" : undefined}
      />
      {cover.label && (
        <text
          x={x}
          y={(fromY + toY) / 2 + 3.5}
          textAnchor="middle"
          fontSize={10}
          fontWeight={700}
          fill="var(--ink)"
        >
          {cover.label}
        </text>
      )}
    </g>
  );
}
