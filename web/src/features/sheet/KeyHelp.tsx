import { Dialog } from "~/ui/Dialog";
import { KEYS } from "./useSheetKeys";

export function KeyHelp({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Keys of this sheet" wide>
      <div className="gap-x-8 sm:columns-2">
        {KEYS.map(({ title, keys }) => (
          <section key={title} className="mb-4 break-inside-avoid text-sm">
            <h3 className="mb-1 font-semibold">{title}</h3>
            <dl className="grid grid-cols-[7rem_1fr] gap-y-0.5">
              {keys.map(([key, what]) => (
                <div key={key} className="contents">
                  <dt className="figures font-semibold">{key}</dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  );
}
