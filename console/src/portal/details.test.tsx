// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { problem, serve, turns, putOffIsDone } from "../shared/service-double";
import { DetailsPage } from "./details";

const mail = {
  id: null,
  method: "email-code",
  label: "a…k@mail.skerry.test",
  since: null,
  left: 0,
  unknownTo: [] as string[],
  thumbprint: null,
};
const app = {
  id: "e1",
  method: "app-code",
  label: "My phone",
  since: "2026-09-21T13:33:20Z",
  left: 0,
  unknownTo: [] as string[],
  thumbprint: null,
};
const paper = {
  id: "e2",
  method: "recovery-code",
  label: "Recovery codes",
  since: "2026-09-21T13:33:20Z",
  left: 7,
  unknownTo: [] as string[],
  thumbprint: null,
};

function open(paths: Parameters<typeof serve>[0]) {
  const settable = ["app-code", "recovery-code", "passkey"].map((method) => ({ method, actions: ["reset", "unlock"] }));
  const service = serve({
    "GET /portal/attempt/enrolments": [200, [mail]],
    "GET /portal/attempt/settable": [200, settable],
    ...paths,
  });
  const step = { onChange: vi.fn(), onGone: vi.fn(() => false) };
  render(<DetailsPage {...step} />);
  return { service, step };
}

afterEach(async () => {
  cleanup();
  await putOffIsDone();
});

describe("ways to prove that it is you", () => {
  it("are listed with what is left of them", async () => {
    open({ "GET /portal/attempt/enrolments": [200, [mail, app, paper]] });
    expect(await screen.findByText("My phone")).toBeTruthy();
    expect(screen.getByText("7 left")).toBeTruthy();
    expect(screen.getByText("a…k@mail.skerry.test, from your organisation")).toBeTruthy();
    expect(screen.getAllByRole("button", { name: /^Remove/ })).toHaveLength(2);
  });

  it("a passkey that a directory doesn’t know says so, and shows for comparison only what was made here", async () => {
    const passkey = {
      ...app,
      id: "e3",
      method: "passkey",
      label: "Key",
      unknownTo: ["Fleet"],
      thumbprint: "from-the-service",
    };
    open({ "GET /portal/attempt/enrolments": [200, [mail, passkey]] });
    expect(await screen.findByText(/Fleet doesn’t know it yet. Ask an administrator/)).toBeTruthy();
    expect(screen.queryByText("from-the-service")).toBeNull();
  });

  it("only what the policy accepts is offered, with what it is good for; what stopped counting says so", async () => {
    open({
      "GET /portal/attempt/enrolments": [200, [mail, app, paper]],
      "GET /portal/attempt/settable": [200, [{ method: "app-code", actions: ["reset", "unlock"] }]],
    });
    expect(await screen.findByText("Lets you get a new password and unlock your account.")).toBeTruthy();
    expect(screen.getAllByText(/doesn’t accept this one from you any more/)).toHaveLength(1);
    expect(screen.getByRole("button", { name: "Add an authenticator app" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: /passkey|phone that approves|questions/i })).toBeNull();
  });

  it("an app counts once it has shown that it works", async () => {
    const { service } = open({
      "POST /portal/attempt/enrolments": [
        201,
        {
          id: "e1",
          method: "app-code",
          complete: false,
          parts: { secret: "ABCDEFGHIJKLMNOP", uri: "otpauth://totp/Skerry%20Line?secret=ABCDEFGHIJKLMNOP" },
          lines: [],
        },
      ],
      "POST /portal/attempt/enrolments/e1/confirmation": turns(
        [422, problem("code-wrong", "That isn't the code the app shows now.")],
        [200, [mail, app]],
      ),
    });
    await userEvent.click(await screen.findByRole("button", { name: "Add an authenticator app" }));
    expect(await screen.findByTitle("Image to scan for")).toBeTruthy();
    expect(screen.getByText("ABCD EFGH IJKL MNOP")).toBeTruthy();
    const code = screen.getByRole("textbox");

    await userEvent.type(code, "12");
    await userEvent.click(screen.getByRole("button", { name: "Set up" }));
    expect(screen.getByText("The app shows six digits.")).toBeTruthy();
    expect(service.calls()).not.toContain("POST /portal/attempt/enrolments/e1/confirmation");

    await userEvent.type(code, "3456");
    await userEvent.click(screen.getByRole("button", { name: "Set up" }));
    expect(await screen.findByText("That isn't the code the app shows now.")).toBeTruthy();

    await userEvent.click(screen.getByRole("button", { name: "Set up" }));
    expect(await screen.findByText(/The app is set up/)).toBeTruthy();
    expect(screen.getByText("My phone")).toBeTruthy();
    expect(screen.queryByText("ABCD EFGH IJKL MNOP")).toBeNull();
  });

  it("recovery codes are shown once and gone afterwards", async () => {
    open({
      "GET /portal/attempt/enrolments": turns([200, [mail]], [200, [mail, paper]]),
      "POST /portal/attempt/enrolments": [
        201,
        { id: "e2", method: "recovery-code", complete: true, parts: {}, lines: ["abcde-fgh23", "jkmnp-qrs45"] },
      ],
    });
    await userEvent.click(await screen.findByRole("button", { name: "Create recovery codes" }));
    expect(await screen.findByText("abcde-fgh23")).toBeTruthy();
    expect(screen.getByText("jkmnp-qrs45")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "I’ve saved them" }));
    expect(await screen.findByText(/Your recovery codes are ready/)).toBeTruthy();
    expect(screen.queryByText("abcde-fgh23")).toBeNull();
    expect(screen.getByRole("button", { name: "Create new recovery codes" })).toBeTruthy();
  });

  it("one gets another name", async () => {
    const { service } = open({
      "GET /portal/attempt/enrolments": [200, [mail, app]],
      "PATCH /portal/attempt/enrolments/e1": [200, [mail, { ...app, label: "Old phone" }]],
    });
    await userEvent.click(await screen.findByRole("button", { name: "Rename My phone" }));
    const name = screen.getByRole("textbox", { name: "Name" });
    await userEvent.clear(name);
    expect(screen.getByRole("button", { name: "Save" })).toHaveProperty("disabled", true);
    await userEvent.type(name, "Old phone");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText("It’s called Old phone now.")).toBeTruthy();
    expect(screen.getByText("Old phone")).toBeTruthy();
    expect(service.asked.at(-1)!.body).toEqual({ label: "Old phone" });
  });

  it("nothing is removed without being asked once more", async () => {
    const { service } = open({
      "GET /portal/attempt/enrolments": [200, [mail, app]],
      "DELETE /portal/attempt/enrolments/e1": [200, [mail]],
    });
    await userEvent.click(await screen.findByRole("button", { name: "Remove My phone" }));
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect(service.calls()).toEqual(["GET /portal/attempt/enrolments", "GET /portal/attempt/settable"]);
    await userEvent.click(screen.getByRole("button", { name: "Remove My phone" }));
    await userEvent.click(screen.getByRole("button", { name: "Remove" }));
    expect(await screen.findByText("My phone was removed.")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Remove My phone" })).toBeNull();
  });

  it("what the service refuses is told, and the rest stays", async () => {
    open({
      "GET /portal/attempt/enrolments": [200, [mail, app]],
      "POST /portal/attempt/enrolments": [409, problem("too-many-enrolments", "You already have 5 of these.")],
    });
    await userEvent.click(await screen.findByRole("button", { name: "Add an authenticator app" }));
    expect(await screen.findByText("You already have 5 of these.")).toBeTruthy();
    expect(screen.getByText("My phone")).toBeTruthy();
  });

  it("Done ends the attempt", async () => {
    const { step } = open({ "POST /portal/attempt/end": [200, { state: "completed" }] });
    await userEvent.click(await screen.findByRole("button", { name: "Done" }));
    await waitFor(() => expect(step.onChange).toHaveBeenCalledWith({ state: "completed" }));
  });
});
