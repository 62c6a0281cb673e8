// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Attempt } from "../portal/api";
import { ProvePage } from "../portal/prove";
import { ResultPage } from "../portal/result";
import { problem, serve, turns, putOffIsDone } from "../shared/service-double";

const attempt = (more: object = {}) =>
  ({
    reference: "R 1234 5678",
    action: "reset",
    state: "proving",
    accounts: [],
    methods: ["email-code", "sms-code", "push"],
    proved: [],
    addresses: [],
    mayGoOn: false,
    mailed: false,
    waiting: false,
    ...more,
  }) as unknown as Attempt;

const asked = (method: string, parts: object = {}) =>
  attempt({
    challenge: {
      id: "c1",
      method,
      parts,
      expiresAt: new Date(Date.now() + 180_000).toISOString(),
      challengesLeft: 2,
      triesLeft: 5,
    },
  });

const steps = () => ({ onChange: vi.fn(), onGone: vi.fn(() => false), onRestart: vi.fn() });

afterEach(async () => {
  cleanup();
  vi.useRealTimers();
  await putOffIsDone();
  vi.unstubAllGlobals();
});

describe("a code to a telephone", () => {
  it("asks for the end of the number first, and sends nothing without it", async () => {
    const service = serve({ "POST /portal/attempt/challenges": [201, asked("sms-code")] });
    const step = steps();
    render(<ProvePage attempt={attempt()} {...step} />);
    await userEvent.click(screen.getByText("A code by text message"));
    expect(screen.getByRole("heading", { name: "Which number is yours?" })).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Last four digits"), "12x");
    await userEvent.click(screen.getByRole("button", { name: "Send the text message" }));
    expect(screen.getByRole("alert").textContent).toBe("Type four digits, such as 0123.");
    expect(service.calls()).toEqual([]);
    await userEvent.type(screen.getByLabelText("Last four digits"), "34");
    await userEvent.click(screen.getByRole("button", { name: "Send the text message" }));
    await waitFor(() => expect(service.asked[0]?.body).toEqual({ method: "sms-code", end: "1234" }));
    expect(step.onChange).toHaveBeenCalled();
  });

  it("asks for it again before another one, and goes back to the other methods", async () => {
    serve({});
    render(<ProvePage attempt={asked("sms-code")} {...steps()} />);
    await userEvent.click(screen.getByText("No text message?"));
    await userEvent.click(screen.getByRole("button", { name: "Send a new code" }));
    expect(screen.getByLabelText("Last four digits")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Use another method" }));
    expect(screen.getByLabelText("Code")).toBeTruthy();
  });
});

describe("several mailboxes", () => {
  const two = {
    addresses: [
      { id: "a1", hint: "i…@s….test" },
      { id: "a2", hint: "h…@h….test" },
    ],
    proved: ["app-code"],
  };

  it("are chosen from once something was proved, and it goes to that one", async () => {
    const service = serve({ "POST /portal/attempt/challenges": [201, asked("email-code")] });
    const step = steps();
    render(<ProvePage attempt={attempt(two)} {...step} />);
    await userEvent.click(screen.getByText("A code by e-mail"));
    expect(screen.getByRole("heading", { name: "Choose an address" })).toBeTruthy();
    expect(service.calls()).toEqual([]);
    await userEvent.click(screen.getByRole("button", { name: "h…@h….test" }));
    await waitFor(() => expect(service.asked[0]?.body).toEqual({ method: "email-code", address: "a2" }));
    expect(step.onChange).toHaveBeenCalled();
  });

  it("are not asked about where there is one only", async () => {
    const service = serve({ "POST /portal/attempt/challenges": [201, asked("email-code")] });
    render(<ProvePage attempt={attempt()} {...steps()} />);
    await userEvent.click(screen.getByText("A code by e-mail"));
    await waitFor(() => expect(service.asked[0]?.body).toEqual({ method: "email-code" }));
  });
});

describe("approval on a phone", () => {
  it("shows the number and goes on by itself when it was approved", async () => {
    vi.useFakeTimers();
    const proved = attempt({ state: "proved" });
    const service = serve({
      "POST /portal/attempt/challenges/c1/answers": turns([202, asked("push", { number: "47" })], "away", [
        200,
        proved,
      ]),
    });
    const step = steps();
    render(<ProvePage attempt={asked("push", { number: "47" })} {...step} />);
    expect(screen.getByLabelText("Number to type on your phone: 47").textContent).toBe("47");
    await vi.advanceTimersByTimeAsync(2_100);
    expect(step.onChange).not.toHaveBeenCalled();
    await vi.advanceTimersByTimeAsync(4_200);
    expect(step.onChange).toHaveBeenCalledWith(proved);
    expect(service.asked.every((one) => JSON.stringify(one.body) === "{}")).toBe(true);
  });

  it("says when it is too late, and sends another request", async () => {
    vi.useFakeTimers();
    const service = serve({
      "POST /portal/attempt/challenges/c1/answers": [410, problem("code-used-up", "This code no longer works.")],
      "POST /portal/attempt/challenges": [201, asked("push", { number: "12" })],
    });
    const step = steps();
    render(<ProvePage attempt={asked("push", { number: "47" })} {...step} />);
    await vi.advanceTimersByTimeAsync(2_100);
    vi.useRealTimers();
    expect(await screen.findByText("It’s too late for this request. Send a new one.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Send a new request" }));
    await waitFor(() => expect(step.onChange).toHaveBeenCalled());
    expect(service.asked.at(-1)?.body).toEqual({ method: "push" });
  });
});

describe("the outcome", () => {
  const done = (mailed: boolean) =>
    attempt({ state: "completed", mailed, accounts: [{ directory: "Shore", login: "calum", state: "done" }] });

  it("speaks of a mail only to who gets one", () => {
    const { unmount } = render(<ResultPage attempt={done(true)} {...steps()} />);
    expect(screen.getByText(/e-mailed you/)).toBeTruthy();
    unmount();
    render(<ResultPage attempt={done(false)} {...steps()} />);
    expect(screen.getByText(/Use it from now on/)).toBeTruthy();
    expect(screen.queryByText(/e-mailed you/)).toBeNull();
  });
});
