import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { said } from "../shared/problem";
import { concernShownUsualValues } from "../shared/api-types";
import { Button, Field, Notice, Select } from "../shared/ui";
import { api, data } from "./api";
import type { Notices } from "./api";
import { Loading } from "./parts";
import { ask } from "./queries";

/** What one is told of oneself: where, and when, by what. */
export function OwnNotices() {
  const notices = useQuery(ask.notices());
  return <Loading query={notices}>{() => <Choices key={notices.dataUpdatedAt} notices={notices.data!} />}</Loading>;
}

function Choices({ notices }: { notices: Notices }) {
  const [form, setForm] = useState({
    address: notices.address ?? "",
    paces: notices.paces,
    hour: String(notices.hour),
  });
  const save = useMutation({
    meta: { touches: ["notices"], saidHere: true },
    mutationFn: () =>
      data(
        api.PUT("/api/v1/me/notices", {
          body: { address: form.address.trim() || undefined, paces: form.paces, hour: Number(form.hour) },
        }),
      ),
  });
  return (
    <form
      className="flex max-w-3xl flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        <Field
          label="Your address"
          hint="Leave empty to be told of nothing"
          type="email"
          value={form.address}
          onChange={(event) => setForm({ ...form, address: event.target.value })}
          error={save.error ? said(save.error) : undefined}
        />
        <Select
          label="Daily list at (UTC)"
          value={form.hour}
          onChange={(hour) => setForm({ ...form, hour })}
          options={Array.from({ length: 24 }, (_, hour) => String(hour))}
        />
      </div>
      <ul className="border-line bg-surface divide-line divide-y rounded-lg border">
        {notices.concerns.map((concern) => (
          <li key={concern.name} className="flex flex-wrap items-center justify-between gap-x-6 gap-y-2 px-4 py-2">
            <span className="flex-1 basis-72">{concern.words}</span>
            <fieldset className="flex gap-4">
              <legend className="sr-only">{concern.words}</legend>
              {concernShownUsualValues.map((pace) => (
                <label key={pace} className="flex items-center gap-1.5">
                  <input
                    type="radio"
                    className="accent-accent"
                    name={concern.name}
                    checked={form.paces[concern.name] === pace}
                    onChange={() => setForm({ ...form, paces: { ...form.paces, [concern.name]: pace } })}
                  />
                  {pace.replace("-", " ")}
                </label>
              ))}
            </fieldset>
          </li>
        ))}
      </ul>
      <Button type="submit" busy={save.isPending} className="self-start">
        Save
      </Button>
      {save.isSuccess && <Notice tone="ok">Saved.</Notice>}
    </form>
  );
}
