import { useEffect, useState } from "react";
import { useNarrow } from "~/lib/useNarrow";
import { day } from "~/lib/words";
import { SetupResult } from "~/ui/setup/SetupResult";
import { Failed } from "~/ui/states";
import { Causes } from "./Causes";
import { Extras } from "./Extras";
import { Groups } from "./Groups";
import { Inspector } from "./Inspector";
import { KeyHelp } from "./KeyHelp";
import { MeasureOtherwise } from "./MeasureOtherwise";
import { MendList } from "./MendList";
import { NotesTable } from "./NotesTable";
import { OtherDrill } from "./OtherDrill";
import { Quiet } from "./Quiet";
import { Rhythm } from "./Rhythm";
import { SetMembers } from "./SetMembers";
import { Stretch } from "./Stretch";
import { Strips } from "./Strips";
import { SheetContext } from "./sheetContext";
import { TakeFacts } from "./TakeFacts";
import type { Judging } from "./TakeHead";
import { TakeWords } from "./TakeWords";
import { TrialView } from "./TrialView";
import { Tries } from "./Tries";
import { useSheetActions } from "./useSheetActions";
import { useSheetKeys } from "./useSheetKeys";
import { type SheetGiven, useSheetState } from "./useSheetState";

/** The sheet: why first, then strips and table on the left, the selected note on the right. */
export function TakeSheet({ judging, ...given }: SheetGiven & { judging: Judging | null }) {
  const sheet = useSheetState(given);
  const { measured, choice, soundError } = sheet;
  const { analysis } = measured;
  const narrow = useNarrow();
  const [full, showFull] = useState(false);
  const short = narrow && !full && !analysis.setup;
  useSheetKeys(useSheetActions(sheet, judging), sheet.listening);
  useEffect(() => {
    performance.mark("sheet-ready");
  }, []);
  return (
    <SheetContext value={sheet}>
      <div data-testid="sheet">
        {!analysis.setup && <OtherDrill />}
        {!analysis.setup && <Causes />}
        <TrialView trying={sheet.trying} />
        {short ? (
          <MendList onFull={() => showFull(true)} />
        ) : (
          <div className="grid gap-x-6 gap-y-4 lg:grid-cols-[minmax(0,1fr)_21rem] print:block">
            <div className="min-w-0">
              {analysis.setup && (
                <div className="mb-6">
                  <SetupResult
                    found={analysis.setup}
                    hum={analysis.take.hum}
                    floorDbfs={analysis.take.noise_floor_dbfs}
                  />
                </div>
              )}
              <Strips />
              <Tries />
              <Stretch />
              <TakeFacts measured={measured} zone={sheet.me.zone} />
              {sheet.teacher && !measured.take.recording_deleted_at && (
                <MeasureOtherwise measured={measured} trying={sheet.trying} />
              )}
              <TakeWords />
              <Extras />
              <Rhythm measured={measured} />
              <Quiet />
              <SetMembers summary={analysis.summary} />
              <Groups summary={analysis.summary} />
              <NotesTable />
            </div>
            <aside
              aria-label="Selected note"
              className="lg:sticky lg:top-4 lg:max-h-[calc(100vh-2rem)] lg:self-start lg:overflow-y-auto print:hidden"
            >
              {measured.take.recording_deleted_at ? (
                <p className="mb-3 border-l-4 border-rule-strong pl-3" data-testid="recording-deleted">
                  The recording was deleted on {day(measured.take.recording_deleted_at, sheet.me.zone)}; what
                  was measured in it stays.
                </p>
              ) : (
                soundError !== null && soundError !== undefined && <Failed error={soundError} />
              )}
              {choice.selected && <Inspector selected={choice.selected} />}
            </aside>
          </div>
        )}
        <KeyHelp open={sheet.help} onOpenChange={sheet.showHelp} />
      </div>
    </SheetContext>
  );
}
