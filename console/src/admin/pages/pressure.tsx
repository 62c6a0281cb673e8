import { useMutation, useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { said } from "../../shared/problem";
import { Badge, Button, Disclosure, Field, Notice } from "../../shared/ui";
import { api, data } from "../api";
import type { PressureSource } from "../api";
import { Loading, PageHead, PersonLink, Section, Table } from "../parts";
import { StopAt } from "./stops";
import { ask } from "../queries";
import type { Page } from "../page";

export const page: Page = {
  path: "audit/pressure",
  title: "Pressure",
  place: "audit",
  beside: { at: 2, title: "Pressure" },
  element: PressurePage,
};

const number = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 1 });

/** What strangers do: how much of it, against what is usual, from where and in whose name. */
export function PressurePage() {
  const pressure = useQuery(ask.pressure());
  return (
    <>
      <PageHead title="Pressure" under="What strangers try, in the last hour against what is usual here." />
      <Loading query={pressure}>
        {() => {
          const now = pressure.data!;
          return (
            <>
              <ul className="mb-7 grid gap-3 sm:grid-cols-2 lg:grid-cols-5">
                {now.levels.map((level) => (
                  <li
                    key={level.kind}
                    className={clsx(
                      "border-line flex flex-col gap-1 rounded-lg border p-4",
                      level.unusual ? "bg-warn-soft" : "bg-surface",
                    )}
                  >
                    <span className="text-xl font-semibold">{number.format(level.lastHour)}</span>
                    <span>{level.says.replace(/^\d+ /, "")}</span>
                    <span className="text-muted text-sm">
                      usually {number.format(level.usual)} an hour {level.unusual && <Badge tone="warn">unusual</Badge>}
                    </span>
                  </li>
                ))}
              </ul>
              <Section title="In whose name">
                <Table<PressureSource>
                  name="People concerned"
                  rows={now.people}
                  keyOf={(one) => one.kind + one.person}
                  empty="No one in particular."
                  columns={[
                    { title: "Person", value: (one) => <PersonLink id={one.person} name={one.name} /> },
                    { title: "In the last hour", wide: true, value: (one) => one.says },
                  ]}
                />
              </Section>
              <Section title="From where">
                <Table<PressureSource>
                  name="Networks"
                  rows={now.networks}
                  keyOf={(one) => one.kind + one.network}
                  empty="No network stands out."
                  columns={[
                    { title: "Network", value: (one) => <span className="font-mono">{one.network}</span> },
                    { title: "In the last hour", wide: true, value: (one) => one.says },
                    {
                      title: "Shut it out",
                      value: (one) => (
                        <StopAt what={`network:${one.network}`}>
                          <Button aria-label={`Stop ${one.network}`}>Stop …</Button>
                        </StopAt>
                      ),
                    },
                  ]}
                />
              </Section>
            </>
          );
        }}
      </Loading>
    </>
  );
}

/** Counts a person's tries and codes anew; with a reason, on record. */
export function LiftLimits({ person }: { person: string }) {
  const [reason, setReason] = useState("");
  const lift = useMutation({
    meta: { saidHere: true },
    mutationFn: () =>
      data(api.POST("/api/v1/people/{id}/limits/lifting", { params: { path: { id: person } }, body: { reason } })),
    onSuccess: () => {
      setReason("");
    },
  });
  return (
    <Disclosure summary="Reset limits …" framed className="max-w-xl">
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          lift.mutate();
        }}
      >
        <p>
          This person’s tries and codes start from zero again, and so do strangers’. First make sure you’re dealing with
          the person.
        </p>
        <Field
          label="Reason"
          hint="One line, kept on record"
          required
          maxLength={200}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          error={lift.error ? said(lift.error) : undefined}
        />
        <Button type="submit" busy={lift.isPending} className="self-start">
          Lift the limits
        </Button>
        {lift.isSuccess && <Notice tone="ok">Limits reset.</Notice>}
      </form>
    </Disclosure>
  );
}
