import { useQueryClient } from "@tanstack/react-query";
import {
  AudioLines,
  CalendarDays,
  CircleHelp,
  FileText,
  House,
  Inbox,
  LogOut,
  Mic,
  Moon,
  Music,
  NotebookPen,
  Server,
  Sun,
  Sunrise,
  TrendingUp,
  UserRound,
  Users,
  Wrench,
} from "lucide-react";
import { type ReactNode, useEffect, useState } from "react";
import { Link, NavLink, useLocation, useNavigate } from "react-router";
import type { Me } from "~/api/client";
import { signOut } from "~/api/session";
import { chapterFor } from "~/features/help/chapters";
import { endKeeping } from "~/lib/offline";
import { useNarrow } from "~/lib/useNarrow";
import { Button, buttonClass } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { Outbox } from "~/ui/Outbox";
import { Bar, type Place } from "./Bar";
import { keepTheme, shownTheme } from "./theme";

const ACCOUNT = { to: "/account", label: "Account", icon: UserRound };
const TEACHERS: Place[] = [
  { to: "/", label: "Desk", icon: Inbox },
  { to: "/record", label: "Record", icon: Mic },
  { to: "/drills", label: "Drills", icon: Music },
  { to: "/students", label: "Students", icon: Users },
  { to: "/bench", label: "Bench", icon: Wrench },
  { to: "/studio", label: "Studio", icon: House },
];
const SERVER: Place = { to: "/server", label: "Server", icon: Server };
const STUDENTS: Place[] = [
  { to: "/", label: "Today", icon: Sunrise },
  { to: "/record", label: "Record", icon: Mic },
  { to: "/takes", label: "Takes", icon: AudioLines },
  { to: "/progress", label: "Progress", icon: TrendingUp },
  { to: "/plan", label: "Plan", icon: CalendarDays },
  { to: "/log", label: "Logbook", icon: NotebookPen },
  { to: "/sheets", label: "Lesson sheets", icon: FileText },
  { to: "/drills", label: "Drills", icon: Music },
  { to: "/bench", label: "Bench", icon: Wrench },
];

export function Shell({ me, children }: { me: Me; children: ReactNode }) {
  const narrow = useNarrow();
  const own = me.role === "teacher" ? TEACHERS : STUDENTS;
  const places = me.keeps ? [...own, SERVER] : own;
  return (
    <div className={cx("min-h-screen", narrow && "pb-[calc(4.5rem+env(safe-area-inset-bottom))] print:pb-0")}>
      <a
        href="#content"
        className="sr-only focus:not-sr-only focus:absolute focus:top-2 focus:left-2 focus:z-50 focus:bg-sheet focus:px-3 focus:py-2"
      >
        Skip to content
      </a>
      <Head>
        {!narrow && (
          <nav aria-label="Main" className="flex flex-wrap gap-x-5">
            {places.map(({ to, label }) => (
              <NavLink
                key={to}
                to={to}
                end={to === "/"}
                className={({ isActive }) =>
                  cx(
                    "border-b-2 py-1",
                    isActive ? "border-ink font-semibold" : "border-transparent hover:border-rule-strong",
                  )
                }
              >
                {label}
              </NavLink>
            ))}
          </nav>
        )}
        <div className="ml-auto flex items-center gap-2 text-sm text-ink-soft">
          {!narrow && (
            <Link className="hover:underline" to="/account" title="Your account">
              {me.name}, {me.studio}
            </Link>
          )}
          <HelpLink me={me} />
          <ThemeButton />
          <SignOutButton />
        </div>
      </Head>
      <Outbox />
      <main id="content" className="mx-auto max-w-[1400px] px-4 py-4 sm:px-6 sm:py-5">
        {children}
      </main>
      {narrow && <Bar places={[...places, ACCOUNT]} />}
    </div>
  );
}

/** The head of every page; index.html shows the same one, empty, before the script is there. */
export function Head({ children }: { children?: ReactNode }) {
  return (
    <header className="border-b-2 border-ink print:hidden">
      <div className="mx-auto flex min-h-12 max-w-[1400px] flex-wrap items-baseline gap-x-8 gap-y-1 px-4 pt-2 pb-1 sm:min-h-14 sm:px-6 sm:pt-3 sm:pb-2">
        <span className="text-xl font-bold tracking-tight">Fortimetra</span>
        {children}
      </div>
    </header>
  );
}

/** Leads to the chapter that fits the page; F1 does too. */
function HelpLink({ me }: { me: Me }) {
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const to = `/help#${chapterFor(pathname, me.role)}`;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key !== "F1" || event.ctrlKey || event.altKey || event.metaKey) return;
      event.preventDefault();
      void navigate(to);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [navigate, to]);
  return (
    <Link
      to={to}
      className={buttonClass("quiet", "px-1")}
      aria-label="Help"
      aria-keyshortcuts="F1"
      title="Help. Key: F1"
    >
      <CircleHelp size={16} aria-hidden />
    </Link>
  );
}

function ThemeButton() {
  const [theme, setTheme] = useState(shownTheme);
  const other = theme === "light" ? "dark" : "light";
  return (
    <Button
      kind="quiet"
      className="px-1 forced-colors:hidden"
      aria-label={`Use the ${other} theme`}
      onClick={() => {
        keepTheme(other);
        setTheme(other);
      }}
    >
      {theme === "light" ? <Moon size={16} aria-hidden /> : <Sun size={16} aria-hidden />}
    </Button>
  );
}

function SignOutButton() {
  const queries = useQueryClient();
  return (
    <Button
      kind="quiet"
      className="px-1"
      aria-label="Sign out"
      onClick={async () => {
        await signOut();
        await endKeeping();
        queries.clear();
        window.location.assign("/");
      }}
    >
      <LogOut size={16} aria-hidden />
    </Button>
  );
}
