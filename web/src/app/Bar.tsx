import { type LucideIcon, Menu } from "lucide-react";
import { useEffect, useState } from "react";
import { NavLink, useLocation } from "react-router";
import { cx } from "~/ui/cx";

export interface Place {
  to: string;
  label: string;
  icon: LucideIcon;
}

const MOST = 4;
const item =
  "flex min-h-14 flex-1 flex-col items-center justify-center gap-0.5 border-t-4 px-1 text-[11px] leading-none";

/** The way through the pages at the lower edge of a phone, in reach of the thumb: four places, and the others behind More. */
export function Bar({ places }: { places: readonly Place[] }) {
  const [open, setOpen] = useState(false);
  const { pathname } = useLocation();
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page closes what was open
  useEffect(() => setOpen(false), [pathname]);
  const others = places.slice(MOST);
  return (
    <nav
      aria-label="Main"
      className="fixed inset-x-0 bottom-0 z-40 border-t-2 border-ink bg-paper pb-[env(safe-area-inset-bottom)] print:hidden"
      data-testid="bar"
    >
      {open && (
        <ul id="more-places" className="grid grid-cols-2 border-b border-rule">
          {others.map(({ to, label, icon: Icon }) => (
            <li key={to}>
              <NavLink
                to={to}
                className="flex min-h-12 items-center gap-3 px-5 aria-[current=page]:font-semibold"
              >
                <Icon size={18} aria-hidden />
                {label}
              </NavLink>
            </li>
          ))}
        </ul>
      )}
      <div className="flex">
        {places.slice(0, MOST).map(({ to, label, icon: Icon }) => (
          <NavLink
            key={to}
            to={to}
            end={to === "/"}
            className={({ isActive }) =>
              cx(item, isActive ? "border-ink font-semibold" : "border-transparent text-ink-soft")
            }
          >
            <Icon size={20} aria-hidden />
            {label}
          </NavLink>
        ))}
        <button
          type="button"
          className={cx(item, open ? "border-ink font-semibold" : "border-transparent text-ink-soft")}
          aria-expanded={open}
          aria-controls="more-places"
          onClick={() => setOpen(!open)}
        >
          <Menu size={20} aria-hidden />
          More
        </button>
      </div>
    </nav>
  );
}
