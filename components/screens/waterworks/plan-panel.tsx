"use client";
import { FileImage, MapPinOff, MapPinPlus, Trash2 } from "lucide-react";
import Link from "next/link";
import { useMemo, useState } from "react";
import { keepFile, keptAt, keptName } from "@/components/data/keep-file";
import { addPlan, dropPin, dropPlan, namePlan, type Plan, setPin } from "@/components/draft/plan-edits";
import { useWorkspace } from "@/components/draft/site-draft";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { Dialog } from "@/components/kit/dialog";
import { ChoiceField, NumberField, TextField } from "@/components/kit/fields";
import { FileButton } from "@/components/kit/file-button";
import { found } from "@/components/kit/find-words";
import { InspectorHead, InspectorPart, WithInspector } from "@/components/kit/inspector";
import { Problem } from "@/components/kit/notice";
import { smallerPicture } from "@/components/kit/smaller-picture";
import { openPdf, type PdfPages, PLAN_PX } from "@/components/pictures/plan/pdf-pages";
import { type PlanPin, PlanPicture } from "@/components/pictures/plan/plan-picture";
import { type Piece, piecesOf } from "@/core/site-file/pieces";

const KIND_WORDS: Record<Piece["kind"], string> = {
  source: "Source",
  poc: "Point of connection",
  mainline: "Mainline",
  controller: "Controller",
  device: "Device",
  station: "Station",
};
type Props = { selected: string | null; onSelect: (id: string | null) => void; onOpen: (id: string) => void };

/** Plans and sketches of the site, with pins that lead to its pieces. */
export function PlanPanel({ selected, onSelect, onOpen }: Props) {
  const { draft } = useWorkspace("draft");
  const [at, setAt] = useScreenParam<string>("plan", "", { add: false });
  const plans = draft.plans ?? [];
  const plan = plans.find((p) => p.id === at) ?? plans.find((p) => p.pins.some((x) => x.id === selected)) ?? plans[0];
  if (!plan)
    return (
      <section aria-label="Plan" className="max-w-prose">
        <p className="my-4">
          A plan or a sketch of the site, as a picture or a PDF: each valve, connection and controller gets a pin where
          it is, and the pin leads to it. A photograph of a drawing on the shed's wall does.
        </p>
        <AddPlan onAdded={setAt} />
      </section>
    );
  return <OnPlan key={plan.id} plan={plan} plans={plans} onPlan={setAt} {...{ selected, onSelect, onOpen }} />;
}

function OnPlan({
  plan,
  plans,
  onPlan,
  selected,
  onSelect,
  onOpen,
}: Props & { plan: Plan; plans: Plan[]; onPlan: (id: string) => void }) {
  const { siteId, draft, edit, canEdit } = useWorkspace("siteId", "draft", "edit", "canEdit");
  const pieces = useMemo(() => piecesOf(draft), [draft]);
  const pins = useMemo(() => {
    const byId = new Map(pieces.map((p) => [p.id, p]));
    return plan.pins.flatMap<PlanPin>((pin) => {
      const piece = byId.get(pin.id);
      return piece ? [{ ...pin, name: piece.name, kind: KIND_WORDS[piece.kind], label: shortly(piece) }] : [];
    });
  }, [pieces, plan]);
  const piece = pieces.find((p) => p.id === selected);
  const pinned = plan.pins.some((p) => p.id === selected);
  const put = (x: number, y: number): void => {
    if (piece) edit(setPin(plan.id, piece.id, x, y));
  };
  return (
    <WithInspector
      label="Pieces on the plan"
      inspector={
        <>
          {piece && (
            <>
              <InspectorHead over={KIND_WORDS[piece.kind]} title={piece.name} />
              <div className="flex flex-wrap gap-1">
                <Opened piece={piece} siteId={siteId} onOpen={onOpen} />
                {canEdit && pinned && (
                  <Button rank="quiet" icon={MapPinOff} onClick={() => edit(dropPin(plan.id, piece.id))}>
                    Take its pin off
                  </Button>
                )}
                {canEdit && !pinned && (
                  <Button rank="quiet" icon={MapPinPlus} onClick={() => put(0.5, 0.5)}>
                    Pin in the middle
                  </Button>
                )}
              </div>
              {canEdit && (
                <p className="mt-1 text-sm text-faint">
                  {pinned ? "Drag its pin, or move it with the arrow keys." : "Press on the plan where it is."}
                </p>
              )}
            </>
          )}
          <PieceList pieces={pieces} plan={plan} selected={selected} onSelect={onSelect} />
          {canEdit && <PlanSettings plan={plan} onPlan={onPlan} />}
        </>
      }
    >
      <section aria-label="Plan">
        {plans.length > 1 && (
          <div className="mb-1 max-w-xs">
            <ChoiceField
              label="Plan"
              value={plan.id}
              options={plans.map((p) => [p.id, p.name] as const)}
              onCommit={onPlan}
            />
          </div>
        )}
        <PlanPicture
          src={keptAt(siteId, plan.id)}
          name={plan.name}
          pins={pins}
          selected={selected}
          placing={canEdit && piece !== undefined && !pinned}
          canEdit={canEdit}
          onSelect={onSelect}
          onPlace={put}
          onMove={(id, x, y) => edit(setPin(plan.id, id, x, y))}
        />
      </section>
    </WithInspector>
  );
}

/** On a crowded plan a station is its number. */
const shortly = ({ kind, name }: Piece): string => (kind === "station" ? (name.split(" ")[0] as string) : name);

function Opened({ piece, siteId, onOpen }: { piece: Piece; siteId: string; onOpen: (id: string) => void }) {
  if (piece.kind !== "station") return <Button onClick={() => onOpen(piece.id)}>Open it</Button>;
  return (
    <Link className="btn btn-plain" href={`/sites/${siteId}/stations?at=${encodeURIComponent(piece.id)}`}>
      Open it
    </Link>
  );
}

function PieceList({
  pieces,
  plan,
  selected,
  onSelect,
}: {
  pieces: Piece[];
  plan: Plan;
  selected: string | null;
  onSelect: (id: string) => void;
}) {
  const [find, setFind] = useState("");
  const on = new Set(plan.pins.map((p) => p.id));
  const shown = found(
    pieces,
    find,
    (p) => p.name,
    (p) => `${KIND_WORDS[p.kind]} ${p.name}`,
  );
  const without = pieces.filter((p) => !on.has(p.id)).length;
  return (
    <InspectorPart
      title={
        without === 0 ? "All pieces are on the plan" : `${pieces.length - without} of ${pieces.length} on the plan`
      }
    >
      <TextField label="Find a piece" value={find} onCommit={setFind} />
      <ul className="mt-1 max-h-72 overflow-y-auto" aria-label="Pieces">
        {shown.map((p) => (
          <li key={p.id}>
            <Button
              rank="bare"
              aria-pressed={p.id === selected}
              className={classes(
                "flex w-full justify-between gap-2 px-1 py-0.5 text-sm hover:bg-base-200",
                p.id === selected && "bg-base-200 font-semibold",
              )}
              onClick={() => onSelect(p.id)}
            >
              <span className="truncate">{p.name}</span>
              <span className="shrink-0 text-xs text-faint">{on.has(p.id) ? KIND_WORDS[p.kind] : "no pin"}</span>
            </Button>
          </li>
        ))}
      </ul>
    </InspectorPart>
  );
}

function PlanSettings({ plan, onPlan }: { plan: Plan; onPlan: (id: string) => void }) {
  const { edit } = useWorkspace("edit");
  return (
    <InspectorPart title="This plan">
      <TextField label="Name of the plan" value={plan.name} onCommit={(name) => edit(namePlan(plan.id, name))} />
      <div className="mt-2 flex flex-wrap gap-1">
        <AddPlan onAdded={onPlan} again />
        <Button
          rank="quiet"
          icon={Trash2}
          onClick={() => {
            edit(dropPlan(plan.id));
            onPlan("");
          }}
        >
          Take this plan off
        </Button>
      </div>
    </InspectorPart>
  );
}

/** Chooses a picture, or a page of a PDF, and makes it a plan. */
function AddPlan({ onAdded, again }: { onAdded: (id: string) => void; again?: boolean }) {
  const { siteId, edit, canEdit } = useWorkspace("siteId", "edit", "canEdit");
  const [pdf, setPdf] = useState<{ pages: PdfPages; name: string } | null>(null);
  const [page, setPage] = useState(1);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const doing = async (work: () => Promise<void>): Promise<void> => {
    setProblem(null);
    setBusy(true);
    try {
      await work();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  const keep = async (content: Blob, name: string): Promise<void> => {
    const named = await keepFile(siteId, content, name);
    edit(addPlan(named));
    onAdded(named.id);
  };
  const close = (): void => {
    pdf?.pages.close();
    setPdf(null);
  };
  const keepPage = (of: { pages: PdfPages; name: string }, number: number): Promise<void> =>
    doing(async () => {
      const stem = of.name.replace(/\.pdf$/i, "");
      await keep(await of.pages.picture(number), of.pages.count > 1 ? `${stem}, page ${number}` : stem);
      of.pages.close();
      setPdf(null);
    });
  const choose = (file: File): Promise<void> =>
    doing(async () => {
      if (!/\.pdf$/i.test(file.name) && file.type !== "application/pdf") {
        const content = await smallerPicture(file, PLAN_PX).catch(() => {
          throw new Error(`${file.name} is neither a picture nor a PDF. Nothing was kept.`);
        });
        return keep(content, keptName(file).replace(/\.[^.]*$/, ""));
      }
      const opened = { pages: await openPdf(file), name: keptName(file) };
      if (opened.pages.count === 1) return keepPage(opened, 1);
      setPage(1);
      setPdf(opened);
    });
  if (!canEdit) return null;
  return (
    <>
      <FileButton
        name="A plan of the site"
        accept="image/*,application/pdf"
        rank={again ? "quiet" : "plain"}
        icon={FileImage}
        disabled={busy}
        onFile={choose}
      >
        {again ? "Add another plan" : "Add a plan"}
      </FileButton>
      {busy && pdf === null && (
        <p role="status" className="text-sm text-faint">
          Keeping the plan…
        </p>
      )}
      {problem !== null && pdf === null && <Problem className="mt-2">{problem}</Problem>}
      <Dialog title="Which page is the plan?" open={pdf !== null} onClose={close}>
        {pdf && (
          <form
            className="grid gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              void keepPage(pdf, page);
            }}
          >
            <p>
              {pdf.name} has {pdf.pages.count} pages. One page is a plan; add the file once more for another.
            </p>
            <NumberField label="Page" value={page} min={1} max={pdf.pages.count} onCommit={(v) => setPage(v ?? 1)} />
            {problem !== null && <Problem>{problem}</Problem>}
            <Button type="submit" rank="main" disabled={busy}>
              {busy ? "Keeping the plan…" : "Take this page"}
            </Button>
          </form>
        )}
      </Dialog>
    </>
  );
}
