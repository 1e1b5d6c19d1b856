import { Popover } from "radix-ui";
import { useContext } from "react";
import { Link } from "react-router";
import type { Shown } from "~/api/drills";
import { CLEAN, useDrillSound } from "~/lib/useDrillSound";
import { VALUES, type ValueHelp, type ValueKey } from "~/lib/valueHelp";
import { Button } from "~/ui/Button";
import { beatsPerBar } from "~/ui/tab/systems.math";
import { SheetContext } from "../sheetContext";

/** A value's name, which says what it is, how exact and against what when it is pressed. */
export function About({ label, value }: { label: string; value: ValueKey }) {
  const help: ValueHelp = VALUES[value];
  return (
    <Popover.Root>
      <Popover.Trigger className="text-left underline decoration-rule-strong decoration-dotted underline-offset-2 hover:decoration-solid">
        {label}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="left"
          align="start"
          sideOffset={8}
          collisionPadding={8}
          className="z-50 w-80 max-w-[92vw] rounded-md border border-rule-strong bg-sheet p-4 text-sm shadow-lg"
        >
          <p className="font-semibold">{help.name}</p>
          <p className="mt-1">{help.is}</p>
          <p className="mt-2 text-ink-soft">{help.exact}</p>
          <div className="mt-3 flex flex-wrap items-center gap-2">
            {help.hear && <Hear help={help} />}
            <Link className="underline" to={`/help#value-${value}`}>
              In the handbook
            </Link>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** The simulated student plays this drill with the fault, and without. */
function Hear({ help }: { help: ValueHelp }) {
  const sheet = useContext(SheetContext);
  const sound = useDrillSound();
  if (!sheet) return null;
  const { content } = sheet.measured.drill;
  const play = (faults: Partial<Shown>) =>
    sound.play({
      content,
      shown: { ...CLEAN, ...faults },
      bpm: null,
      click: true,
      perBar: beatsPerBar(content),
      fromBeat: 0,
      loop: false,
    });
  if (sound.state !== "still")
    return <Button onClick={sound.stop}>{sound.state === "preparing" ? "Tuning up …" : "Stop"}</Button>;
  return (
    <>
      <Button onClick={() => play(help.hear ?? {})}>Hear it {help.hearWords}</Button>
      <Button onClick={() => play({})}>Hear it clean</Button>
      {sound.error && <p role="alert">{sound.error}</p>}
    </>
  );
}
