import { useEffect, useRef, useState } from "react";
import { dayWords } from "~/lib/days";
import { typedDay } from "~/lib/dayTyped";
import { Field } from "./Field";

const HOW = "Write the day as 26 Nov or 26/11/2026.";

export interface DayFieldProps {
  label: string;
  /** As 2026-11-26, or empty; what is no day comes back as it was typed. */
  value: string;
  onDay: (day: string) => void;
  required?: boolean;
}

/**
 * A day, typed with the day before the month whatever the browser's country is; on a phone the phone's own picker. What
 * is no day says so and is not sent.
 */
export function DayField({ label, value, onDay, required }: DayFieldProps) {
  const [text, setText] = useState(value && wordsOf(value));
  const own = useRef(value);
  // Emptied or set from outside, it follows.
  useEffect(() => {
    if (value !== own.current) {
      own.current = value;
      setText(value && wordsOf(value));
    }
  }, [value]);
  const frame = useRef<HTMLDivElement>(null);
  const bad = text.trim() !== "" && typedDay(text, today()) === null;
  useEffect(() => {
    frame.current?.querySelector("input")?.setCustomValidity(bad ? HOW : "");
  }, [bad]);
  const say = (typed: string) => {
    setText(typed);
    own.current = typed.trim() === "" ? "" : (typedDay(typed, today()) ?? typed.trim());
    onDay(own.current);
  };
  if (window.matchMedia?.("(pointer: coarse)").matches)
    return <Field label={label} type="date" value={value} onText={onDay} required={required} />;
  return (
    <div ref={frame}>
      <Field
        label={label}
        words
        value={text}
        placeholder="26 Nov"
        aria-invalid={bad}
        required={required}
        onText={say}
        onBlur={() => {
          const day = typedDay(text, today());
          if (day) setText(dayWords(day));
        }}
      />
      {bad && <p className="mt-1 text-xs">{HOW}</p>}
    </div>
  );
}

function wordsOf(value: string): string {
  return typedDay(value, today()) === null ? value : dayWords(value);
}

function today(): string {
  const now = new Date();
  const two = (n: number) => String(n).padStart(2, "0");
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}
