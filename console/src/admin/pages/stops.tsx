import { useMutation, useQuery } from "@tanstack/react-query";
import { OctagonX } from "lucide-react";
import { useState } from "react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { said } from "../../shared/problem";
import { Badge, Button, Field, Notice, Select } from "../../shared/ui";
import { api, data } from "../api";
import type { Stop } from "../api";
import { Loading, PageHead, Section, Table, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { Modal, ModalFoot } from "../../shared/modal";
import { useTyped } from "../typed";

export const page: Page = { path: "stops", title: "Stops", place: "today", element: Stops };

const useStops = () => useQuery(ask.stops());

function useResume() {
  return useMutation({
    mutationFn: (what: string) => data(api.DELETE("/api/v1/stops", { params: { query: { what } } })),
  });
}

/** What is stopped, on every page and for as long as it is. */
export function StopBar() {
  const stops = useStops();
  const resume = useResume();
  const inForce = stops.data?.stops.filter((stop) => !stop.ended) ?? [];
  if (inForce.length === 0) return null;
  return (
    <ul aria-label="Stopped now" className="bg-bad-soft text-bad border-line flex flex-col border-b">
      {inForce.map((stop) => (
        <li key={stop.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2 md:px-6">
          <OctagonX aria-hidden className="size-4 shrink-0" />
          <span className="min-w-0 flex-1 break-words">
            <strong className="font-semibold">{words(stop.what)} stopped</strong> by {stop.by}: {stop.reason}.{" "}
            {stop.until && (
              <>
                Resumes automatically at <Time at={stop.until} />.
              </>
            )}
          </span>
          <Button busy={resume.isPending} onClick={() => resume.mutate(stop.what)}>
            Resume
          </Button>
        </li>
      ))}
    </ul>
  );
}

/** "everything", or the name of one thing with its kind, at the beginning of a sentence. */
function words(what: string): string {
  if (what === "everything") return "Everything is";
  const [kind, name] = [what.slice(0, what.indexOf(":")), what.slice(what.indexOf(":") + 1)];
  return `${kind.charAt(0).toUpperCase()}${kind.slice(1)} ${name} is`;
}

/** What stopping it means, so that nobody has to guess while it burns. */
function effect(what: string): string {
  const name = what.slice(what.indexOf(":") + 1);
  if (what === "everything") {
    return "No one can start or finish anything, and nothing more is written to any directory. People in the middle of something are told that it’s paused.";
  }
  if (what.startsWith("action:")) {
    return `No one can start or finish “${name}”, and nothing more is written for it. Other actions continue.`;
  }
  if (what.startsWith("method:")) {
    return `No one can use ${name}. Where a policy accepts nothing else, its people can’t start.`;
  }
  if (what.startsWith("directory:")) {
    return `Nothing more is written to ${name}. Other directories continue, and people are told what was left out.`;
  }
  if (what.startsWith("network:")) {
    return `No one from ${name} can start or finish anything. They’re told that it’s paused.`;
  }
  return `People of the policy ${name} can’t do anything. They only learn this after they’ve verified.`;
}

const spans: Record<string, number> = { "30 minutes": 30, "2 hours": 120, "8 hours": 480, "1 day": 1440 };
const NOT = "not by itself";

/** One click away from everywhere. */
export function StopControl() {
  return (
    <StopAt what="everything">
      <Button className="ml-auto shrink-0">
        <OctagonX aria-hidden className="text-bad size-4" />
        Stop …
      </Button>
    </StopAt>
  );
}

/** Asks for a reason and stops; begins with one thing, another can be chosen. */
export function StopAt({ what: first, children }: { what: string; children: ReactNode }) {
  const stops = useStops();
  const [open, setOpen] = useState(false);
  const [what, setWhat] = useState(first);
  const [reason, setReason, forgetReason] = useTyped("reason of a stop", "");
  const [ends, setEnds] = useState(NOT);
  const [empty, setEmpty] = useState(false);
  const stop = useMutation({
    meta: { saidHere: true },
    mutationFn: () =>
      data(
        api.POST("/api/v1/stops", {
          body: {
            what,
            reason,
            until: ends === NOT ? undefined : new Date(Date.now() + spans[ends]! * 60_000).toISOString(),
          },
        }),
      ),
    onSuccess: async () => {
      setOpen(false);
      forgetReason();
    },
  });
  return (
    <Modal
      open={open}
      onOpenChange={setOpen}
      trigger={children}
      title="Stop at once"
      description="Takes effect immediately, for everyone. No draft is needed, and nothing is lost."
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          setEmpty(!reason.trim());
          if (reason.trim()) stop.mutate();
        }}
      >
        <Select
          label="What"
          value={what}
          onChange={setWhat}
          options={[...new Set([...(stops.data?.possible ?? ["everything"]), first])]}
        />
        <Notice tone="warn">{effect(what)}</Notice>
        <Field
          label="Reason"
          hint="One line for other administrators, kept on record"
          value={reason}
          maxLength={200}
          onChange={(event) => setReason(event.target.value)}
          error={empty && !reason.trim() ? "Give a reason. The others will ask." : undefined}
        />
        <Select label="Ends" value={ends} onChange={setEnds} options={[NOT, ...Object.keys(spans)]} />
        {stop.error && <Notice tone="bad">{said(stop.error)}</Notice>}
        <ModalFoot
          aside={
            <Link to="/stops" onClick={() => setOpen(false)} className="rounded-sm underline">
              What was stopped before
            </Link>
          }
        >
          <Button type="submit" look="danger" busy={stop.isPending}>
            Stop {what}
          </Button>
        </ModalFoot>
      </form>
    </Modal>
  );
}

/** The history of the switch. */
export function Stops() {
  const stops = useStops();
  const resume = useResume();
  return (
    <>
      <PageHead title="Stops" under="What was stopped, by whom and why. A stop can only make things stricter." />
      <Section title="In force and before">
        <Loading query={stops}>
          {() => (
            <Table<Stop>
              name="Stops"
              rows={stops.data!.stops}
              keyOf={(stop) => stop.id}
              empty="Nothing has been stopped yet. The stop switch is at the top of every page."
              columns={[
                { title: "What", value: (stop) => stop.what },
                {
                  title: "State",
                  value: (stop) =>
                    stop.ended ? <Badge tone="none">resumed</Badge> : <Badge tone="bad">stopped</Badge>,
                },
                { title: "Since", value: (stop) => <Time at={stop.since} /> },
                { title: "Until", value: (stop) => <Time at={stop.ended || stop.until} /> },
                { title: "By", value: (stop) => stop.by },
                { title: "Reason", value: (stop) => stop.reason, wide: true },
                {
                  title: "What can be done",
                  value: (stop) =>
                    !stop.ended && (
                      <Button busy={resume.isPending} onClick={() => resume.mutate(stop.what)}>
                        Resume
                      </Button>
                    ),
                },
              ]}
            />
          )}
        </Loading>
      </Section>
    </>
  );
}
