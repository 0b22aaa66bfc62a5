"use client";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { ORDER_STATE, orderWords, SEND_WORDS } from "@/components/words/order-words";
import type { ControllersStatus, PlacedOrder, Send } from "@/contracts/controllers";

/** What was sent and what was asked, newest first, with what became of it. */
export function HistoryPanel({ status }: { status: ControllersStatus }) {
  return (
    <div className="grid gap-8 xl:grid-cols-2">
      <section aria-label="Settings sent" className="min-w-0">
        <h3 className="text-lg mb-1">Settings sent</h3>
        {status.sends.length === 0 ? (
          <p className="text-faint">Nothing was sent yet.</p>
        ) : (
          <Scroller>
            <Table aria-label="Settings sent">
              <thead>
                <tr>
                  <th>No</th>
                  <th>When, by whom</th>
                  <th>To</th>
                  <th>Revision</th>
                  <th>What became of it</th>
                </tr>
              </thead>
              <tbody>
                {status.sends.map((s) => (
                  <SendRow key={s.id} send={s} />
                ))}
              </tbody>
            </Table>
          </Scroller>
        )}
      </section>
      <section aria-label="Orders" className="min-w-0">
        <h3 className="text-lg mb-1">Orders</h3>
        {status.orders.length === 0 ? (
          <p className="text-faint">Nothing was asked yet.</p>
        ) : (
          <Scroller>
            <Table aria-label="Orders">
              <thead>
                <tr>
                  <th>When, by whom</th>
                  <th>What</th>
                  <th>What became of it</th>
                </tr>
              </thead>
              <tbody>
                {status.orders.map((o) => (
                  <OrderRow key={o.id} order={o} />
                ))}
              </tbody>
            </Table>
          </Scroller>
        )}
      </section>
    </div>
  );
}

function SendRow({ send: s }: { send: Send }) {
  const { draft } = useWorkspace("draft");
  const { momentAt } = useConventions();
  const [open, setOpen] = useState(false);
  const odd = s.items.filter((i) => i.outcome !== "taken");
  const shown = open ? s.items : odd;
  return (
    <tr className="align-top">
      <td>{s.number}</td>
      <td>
        {momentAt(s.askedAt)}
        <div className="text-faint">{s.askedByName}</div>
      </td>
      <td>{draft.controllers.find((c) => c.id === s.controllerId)?.name ?? s.controllerId}</td>
      <td>{s.version}</td>
      <td>
        <span className={s.state === "failed" || s.state === "partly" ? "font-semibold text-warning" : ""}>
          {SEND_WORDS[s.state]}
        </span>
        {s.answeredAt && s.state !== "overtaken" ? ` ${momentAt(s.answeredAt)}` : ""}
        {s.reason ? `: ${s.reason}` : ""}
        {shown.map((i) => (
          <div key={i.path} className="text-sm">
            {i.what}: {i.outcome === "taken" ? `taken, ${i.value}` : `${i.outcome}, it holds ${i.value}`}
            {i.reason ? <span className="text-faint"> ({i.reason})</span> : null}
          </div>
        ))}
        {s.items.length > odd.length && (
          <Button rank="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Only what was not taken as sent" : `${s.items.length - odd.length} taken`}
          </Button>
        )}
      </td>
    </tr>
  );
}

function OrderRow({ order: o }: { order: PlacedOrder }) {
  const { draft } = useWorkspace("draft");
  const { momentAt } = useConventions();
  const milliamps = Object.entries(o.milliamps ?? {});
  const none = milliamps.filter(([, ma]) => ma === 0).map(([id]) => id);
  return (
    <tr className="align-top">
      <td>
        {momentAt(o.askedAt)}
        <div className="text-faint">{o.askedByName}</div>
      </td>
      <td>{orderWords(draft, o.what)}</td>
      <td>
        <span className={o.state === "refused" || o.state === "expired" ? "font-semibold text-warning" : ""}>
          {ORDER_STATE[o.state]}
        </span>
        {o.reason ? `: ${o.reason}` : ""}
        {milliamps.length > 0 && (
          <div className="text-sm">
            {milliamps.length} stations drew {Math.min(...milliamps.map(([, ma]) => ma))} to{" "}
            {Math.max(...milliamps.map(([, ma]) => ma))} mA
            {none.length > 0
              ? `; no current at ${none.map((id) => draft.stations.find((s) => s.id === id)?.number ?? id).join(", ")}`
              : ""}
          </div>
        )}
      </td>
    </tr>
  );
}
