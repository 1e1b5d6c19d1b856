import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect } from "react";
import { Link, Route, Routes } from "react-router";
import { Problem } from "~/api/client";
import { meQuery } from "~/api/queries";
import { SignIn } from "~/features/account/SignIn";
import { Desk } from "~/features/desk/Desk";
import { Empty, Failed, Loading } from "~/ui/states";
import { loadRecorder, loadStudents, loadTake } from "./early";
import { PageBoundary } from "./PageBoundary";
import { Head, Shell } from "./Shell";

const TakePage = lazy(() => loadTake().then((m) => ({ default: m.TakePage })));
const ComparePage = lazy(() =>
  import("~/features/compare/ComparePage").then((m) => ({ default: m.ComparePage })),
);
const Drills = lazy(() => import("~/features/drills/Drills").then((m) => ({ default: m.Drills })));
const MakeDrill = lazy(() => import("~/features/drills/MakeDrill").then((m) => ({ default: m.MakeDrill })));
const DrillPage = lazy(() => import("~/features/drills/DrillPage").then((m) => ({ default: m.DrillPage })));
const Editor = lazy(() => import("~/features/drills/Editor").then((m) => ({ default: m.Editor })));
const ImportPage = lazy(() =>
  import("~/features/drills/ImportPage").then((m) => ({ default: m.ImportPage })),
);
const RecorderPage = lazy(() => loadRecorder().then((m) => ({ default: m.RecorderPage })));
const Students = lazy(() => loadStudents().then((m) => ({ default: m.Students })));
const TakesPage = lazy(() => import("~/features/students/TakesPage").then((m) => ({ default: m.TakesPage })));
const StudentPage = lazy(() =>
  import("~/features/students/StudentPage").then((m) => ({ default: m.StudentPage })),
);
const GuitarPage = lazy(() =>
  import("~/features/guitars/GuitarPage").then((m) => ({ default: m.GuitarPage })),
);
const Bench = lazy(() => import("~/features/bench/Bench").then((m) => ({ default: m.Bench })));

const GuestPage = lazy(() => import("~/features/recorder/GuestPage").then((m) => ({ default: m.GuestPage })));
const PlanPage = lazy(() => import("~/features/plan/PlanPage").then((m) => ({ default: m.PlanPage })));
const TodayPage = lazy(() => import("~/features/plan/TodayPage").then((m) => ({ default: m.TodayPage })));
const LogbookPage = lazy(() =>
  import("~/features/log/LogbookPage").then((m) => ({ default: m.LogbookPage })),
);
const ProgressPage = lazy(() =>
  import("~/features/progress/ProgressPage").then((m) => ({ default: m.ProgressPage })),
);
const DrillProgressPage = lazy(() =>
  import("~/features/progress/DrillProgressPage").then((m) => ({ default: m.DrillProgressPage })),
);
const SheetsPage = lazy(() =>
  import("~/features/lessons/SheetsPage").then((m) => ({ default: m.SheetsPage })),
);
const SheetPage = lazy(() => import("~/features/lessons/SheetPage").then((m) => ({ default: m.SheetPage })));
const StudioPage = lazy(() =>
  import("~/features/studio/StudioPage").then((m) => ({ default: m.StudioPage })),
);
const AccountPage = lazy(() =>
  import("~/features/account/AccountPage").then((m) => ({ default: m.AccountPage })),
);
const JoinPage = lazy(() => import("~/features/account/JoinPage").then((m) => ({ default: m.JoinPage })));
const AddressPage = lazy(() =>
  import("~/features/account/AddressPage").then((m) => ({ default: m.AddressPage })),
);
const KeeperPage = lazy(() =>
  import("~/features/keeper/KeeperPage").then((m) => ({ default: m.KeeperPage })),
);
const HelpPage = lazy(() => import("~/features/help/HelpPage").then((m) => ({ default: m.HelpPage })));
const ResetPage = lazy(() => import("~/features/account/ResetPage").then((m) => ({ default: m.ResetPage })));

/** Pages a link opens are the same for everybody; the rest is for who is signed in. */
export function App() {
  return (
    <Suspense fallback={<Loading what="the page" />}>
      <Routes>
        <Route path="/join/:token" element={<JoinPage />} />
        <Route path="/reset/:key" element={<ResetPage />} />
        <Route path="/address/:token" element={<AddressPage />} />
        <Route path="/guest/:token" element={<GuestPage />} />
        <Route path="*" element={<SignedIn />} />
      </Routes>
    </Suspense>
  );
}

function SignedIn() {
  const me = useQuery(meQuery);
  useSignedOutElsewhere();
  if (me.isPending) return <Head />;
  if (me.error) {
    if (me.error instanceof Problem && me.error.status === 401) return <SignIn />;
    return (
      <main className="mx-auto max-w-xl px-6">
        <Failed error={me.error} onRetry={() => me.refetch()} />
      </main>
    );
  }
  return (
    <Shell me={me.data}>
      <PageBoundary>
        <Suspense fallback={<Loading what="the page" />}>
          <Routes>
            <Route
              path="/"
              element={me.data.role === "teacher" ? <Desk me={me.data} /> : <TodayPage me={me.data} />}
            />
            <Route path="/takes" element={<TakesPage me={me.data} />} />
            <Route path="/takes/:id" element={<TakePage me={me.data} />} />
            <Route path="/compare/:id/:other?" element={<ComparePage me={me.data} />} />
            <Route path="/drills" element={<Drills me={me.data} />} />
            <Route path="/server" element={<KeeperPage me={me.data} />} />
            <Route path="/drills/new/:family?" element={<MakeDrill />} />
            <Route path="/drills/import/:id" element={<ImportPage />} />
            <Route path="/drills/:id/write" element={<Editor />} />
            <Route path="/drills/:id" element={<DrillPage me={me.data} />} />
            <Route path="/record/:id?" element={<RecorderPage me={me.data} />} />
            <Route path="/students" element={<Students me={me.data} />} />
            <Route path="/students/:id" element={<StudentPage me={me.data} />} />
            <Route path="/students/:id/plan" element={<PlanPage me={me.data} />} />
            <Route path="/students/:id/progress" element={<ProgressPage me={me.data} />} />
            <Route path="/students/:id/progress/:drill" element={<DrillProgressPage me={me.data} />} />
            <Route path="/students/:id/log" element={<LogbookPage me={me.data} />} />
            <Route path="/students/:id/sheets" element={<SheetsPage me={me.data} />} />
            <Route path="/plan" element={<PlanPage me={me.data} />} />
            <Route path="/progress" element={<ProgressPage me={me.data} />} />
            <Route path="/progress/:drill" element={<DrillProgressPage me={me.data} />} />
            <Route path="/log" element={<LogbookPage me={me.data} />} />
            <Route path="/sheets" element={<SheetsPage me={me.data} />} />
            <Route path="/sheets/:id" element={<SheetPage me={me.data} />} />
            <Route path="/studio" element={<StudioPage me={me.data} />} />
            <Route path="/help" element={<HelpPage me={me.data} />} />
            <Route path="/account" element={<AccountPage me={me.data} />} />
            <Route path="/guitars/:id" element={<GuitarPage me={me.data} />} />
            <Route path="/bench/:tool?" element={<Bench />} />
            <Route path="*" element={<NoSuchPage />} />
          </Routes>
        </Suspense>
      </PageBoundary>
    </Shell>
  );
}

/** Any answer "not signed in" leads back to the sign-in page. */
function useSignedOutElsewhere() {
  const queries = useQueryClient();
  useEffect(
    () =>
      queries.getQueryCache().subscribe((event) => {
        const error = event.query.state.error;
        const lost = error instanceof Problem && error.code === "not_signed_in";
        if (event.type === "updated" && lost && event.query.queryKey[0] !== "me") {
          void queries.invalidateQueries({ queryKey: meQuery.queryKey });
        }
      }),
    [queries],
  );
}

function NoSuchPage() {
  return (
    <Empty title="There is no such page">
      <Link className="underline" to="/">
        Back to the Desk
      </Link>
    </Empty>
  );
}
