import { useQueryClient } from "@tanstack/react-query";
import { LogOut, Moon, Sun } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Link, NavLink } from "react-router";
import type { Me } from "~/api/client";
import { signOut } from "~/api/session";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { Outbox } from "~/ui/Outbox";
import { keepTheme, storedTheme } from "./theme";

const TEACHERS = [
  { to: "/", label: "Desk" },
  { to: "/record", label: "Record" },
  { to: "/drills", label: "Drills" },
  { to: "/students", label: "Students" },
  { to: "/bench", label: "Bench" },
  { to: "/studio", label: "Studio" },
];
const STUDENTS = [
  { to: "/", label: "Today" },
  { to: "/record", label: "Record" },
  { to: "/takes", label: "Takes" },
  { to: "/plan", label: "Plan" },
  { to: "/progress", label: "Progress" },
  { to: "/log", label: "Logbook" },
  { to: "/sheets", label: "Lesson sheets" },
  { to: "/drills", label: "Drills" },
  { to: "/bench", label: "Bench" },
];

export function Shell({ me, children }: { me: Me; children: ReactNode }) {
  return (
    <div className="min-h-screen">
      <a
        href="#content"
        className="sr-only focus:not-sr-only focus:absolute focus:top-2 focus:left-2 focus:z-50 focus:bg-sheet focus:px-3 focus:py-2"
      >
        Skip to content
      </a>
      <header className="border-b-2 border-ink print:hidden">
        <div className="mx-auto flex max-w-[1400px] flex-wrap items-baseline gap-x-8 gap-y-1 px-6 pt-3 pb-2">
          <span className="text-xl font-bold tracking-tight">Fortimetra</span>
          <nav aria-label="Main" className="flex flex-wrap gap-x-5">
            {(me.role === "teacher" ? TEACHERS : STUDENTS).map(({ to, label }) => (
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
          <div className="ml-auto flex items-center gap-2 text-sm text-ink-soft">
            <Link className="hover:underline" to="/account" title="Your account">
              {me.name}, {me.studio}
            </Link>
            <ThemeButton />
            <SignOutButton />
          </div>
        </div>
      </header>
      <Outbox />
      <main id="content" className="mx-auto max-w-[1400px] px-6 py-5">
        {children}
      </main>
    </div>
  );
}

function ThemeButton() {
  const [theme, setTheme] = useState(storedTheme);
  const other = theme === "light" ? "dark" : "light";
  return (
    <Button
      kind="quiet"
      className="px-1"
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
        queries.clear();
        window.location.assign("/");
      }}
    >
      <LogOut size={16} aria-hidden />
    </Button>
  );
}
