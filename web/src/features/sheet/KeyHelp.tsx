import { Dialog } from "~/ui/Dialog";
import { KEYS } from "./useSheetKeys";

export function KeyHelp({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Keys of this sheet">
      <div className="grid gap-5">
        {KEYS.map(({ title, keys }) => (
          <section key={title}>
            <h3 className="mb-1 text-sm font-semibold">{title}</h3>
            <dl className="grid grid-cols-[7rem_1fr] gap-y-1">
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
