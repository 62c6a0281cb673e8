// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { problem, serve, turns, putOffIsDone } from "../shared/service-double";
import { Problem } from "../shared/problem";
import { api } from "./api";
import type { Attempt } from "./api";
import { ProvePage } from "./prove";
import { NotMe } from "./not-me";
import { Quiet } from "./quiet";
import { Recovery } from "./recovery";
import { ResultPage } from "./result";
import { Shell } from "./shell";
import { TermsPage } from "./terms";

const context = {
  organisation: "Skerry Line",
  helpDesk: "call 01632 960 100",
  actions: ["reset", "unlock"],
  ready: true,
  paused: [],
  knownBrowser: false,
  shared: false,
  idleSeconds: 300,
};

const attempt = (more: object = {}) =>
  ({
    reference: "R 1234 5678",
    action: "reset",
    state: "proving",
    accounts: [],
    methods: ["email-code", "app-code"],
    proved: [],
    addresses: [],
    mayGoOn: false,
    mailed: true,
    waiting: false,
    challenge: {
      id: "c1",
      method: "email-code",
      expiresAt: new Date(Date.now() + 600_000).toISOString(),
      challengesLeft: 2,
      triesLeft: 5,
    },
    ...more,
  }) as unknown as Attempt;

const steps = () => ({ onChange: vi.fn(), onGone: vi.fn(() => false), onRestart: vi.fn() });

beforeEach(() => {
  vi.stubGlobal("scrollTo", () => undefined);
});

afterEach(async () => {
  cleanup();
  vi.useRealTimers();
  await putOffIsDone();
  vi.unstubAllGlobals();
});

describe("typing a code", () => {
  const type = async (code: string) => {
    await userEvent.type(screen.getByLabelText("Code"), code);
    await userEvent.click(screen.getByRole("button", { name: "Continue" }));
  };

  it("says how long the code is before anything is sent", async () => {
    const service = serve({});
    render(<ProvePage attempt={attempt()} {...steps()} />);
    await type("1234 567");
    expect(screen.getByRole("alert").textContent).toBe("Type the whole code from the e-mail.");
    expect(service.calls()).toEqual([]);
  });

  it("sends it as it was typed, to its own challenge", async () => {
    const next = attempt({ state: "proved" });
    const service = serve({ "POST /portal/attempt/challenges/c1/answers": [200, next] });
    const step = steps();
    render(<ProvePage attempt={attempt()} {...step} />);
    await type("1234 5678");
    await waitFor(() => expect(step.onChange).toHaveBeenCalledWith(next));
    expect(service.asked[0]!.body).toEqual({ code: "1234 5678" });
  });

  it("tells what was wrong beside the field and looks how many tries are left", async () => {
    const looked = attempt();
    serve({
      "POST /portal/attempt/challenges/c1/answers": [422, problem("code-wrong", "This code was not right.")],
      "GET /portal/attempt": [200, looked],
    });
    const step = steps();
    render(<ProvePage attempt={attempt()} {...step} />);
    await type("12345678");
    expect(await screen.findByText("This code was not right.")).toBeTruthy();
    await waitFor(() => expect(step.onChange).toHaveBeenCalledWith(looked));
    expect(screen.getByRole("button", { name: "Continue" })).toHaveProperty("disabled", false);
  });

  it("asks an unknown browser for two codes of the app, one after the other", async () => {
    const next = attempt({ state: "proved" });
    const service = serve({ "POST /portal/attempt/challenges/c1/answers": [200, next] });
    const asked = attempt({ challenge: { ...attempt().challenge, method: "app-code" } });
    render(<ProvePage attempt={asked} {...steps()} />);
    await userEvent.type(screen.getByLabelText("Code in the app"), "123456");
    await userEvent.click(screen.getByRole("button", { name: "Continue" }));
    expect(screen.getByText(/six digits in each field/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Next code in the app"), "654321");
    await userEvent.click(screen.getByRole("button", { name: "Continue" }));
    await waitFor(() => expect(service.asked[0]?.body).toEqual({ code: "123456 654321" }));
  });

  it("leaves the end of the attempt to whoever tells it", async () => {
    serve({
      "POST /portal/attempt/challenges/c1/answers": [404, problem("attempt-gone", "This attempt has ended.")],
    });
    const step = { ...steps(), onGone: vi.fn(() => true) };
    render(<ProvePage attempt={attempt()} {...step} />);
    await type("12345678");
    await waitFor(() => expect(step.onGone).toHaveBeenCalled());
    expect(screen.queryByText("This attempt has ended.")).toBeNull();
  });

  it("offers another code while there are any, and says when there are none", async () => {
    const service = serve({ "POST /portal/attempt/challenges": [200, attempt()] });
    const { rerender } = render(<ProvePage attempt={attempt()} {...steps()} />);
    await userEvent.click(screen.getByText("No e-mail?"));
    await userEvent.click(screen.getByRole("button", { name: "Send a new code" }));
    expect(await screen.findByText(/Use the newest code/)).toBeTruthy();
    expect(service.asked[0]!.body).toEqual({ method: "email-code" });
    const none = attempt();
    none.challenge.challengesLeft = 0;
    rerender(<ProvePage attempt={none} {...steps()} />);
    expect(screen.getByText("You’ve had all the codes for this attempt. Start again to get more.")).toBeTruthy();
  });

  it("says that the time is up instead of a number of minutes", () => {
    const late = attempt();
    late.challenge.expiresAt = new Date(Date.now() - 1000).toISOString();
    render(<ProvePage attempt={late} {...steps()} />);
    expect(screen.getByText("This code has expired. Send a new one")).toBeTruthy();
  });

  it("takes letters for a recovery code and sends nobody another", async () => {
    const paper = attempt();
    paper.challenge.method = "recovery-code";
    render(<ProvePage attempt={paper} {...steps()} />);
    expect(screen.getByLabelText("Recovery code").getAttribute("inputmode")).toBe("text");
    expect(screen.queryByText("Send a new code", { ignore: ".hidden *" })).toBeNull();
  });
});

describe("choosing a way", () => {
  const unasked = (more: object = {}) => attempt({ challenge: undefined, ...more });

  it("asks for the way that was chosen", async () => {
    const service = serve({ "POST /portal/attempt/challenges": [200, attempt()] });
    const step = steps();
    render(<ProvePage attempt={unasked()} {...step} />);
    await userEvent.click(screen.getByRole("button", { name: /authenticator app/ }));
    await waitFor(() => expect(step.onChange).toHaveBeenCalled());
    expect(service.asked[0]!.body).toEqual({ method: "app-code" });
  });

  it("says why one more is needed, and whom to ask when there is none", () => {
    render(<ProvePage attempt={unasked({ proved: ["email-code"], methods: [] })} {...steps()} />);
    expect(screen.getByRole("heading").textContent).toBe("One more method");
    expect(screen.getByText(/There’s no other method you can use/)).toBeTruthy();
  });

  it("tells what the service says and lets the person choose again", async () => {
    serve({
      "POST /portal/attempt/challenges": [
        429,
        problem("too-many-codes", "You’ve had all the codes for this attempt. Start again to get more."),
      ],
    });
    render(<ProvePage attempt={unasked()} {...steps()} />);
    await userEvent.click(screen.getByRole("button", { name: /code by e-mail/ }));
    expect(await screen.findByText("You’ve had all the codes for this attempt. Start again to get more.")).toBeTruthy();
    for (const button of screen.getAllByRole("button")) expect(button).toHaveProperty("disabled", false);
  });
});

describe("terms", () => {
  const terms = { name: "house-rules", text: "Keep it to yourself.", language: "en" };

  it("are accepted by their name, and shown in their language", async () => {
    const next = attempt({ state: "proved", terms: null });
    const service = serve({ "POST /portal/attempt/terms": [200, next] });
    const step = steps();
    render(<TermsPage attempt={attempt({ state: "proved", terms })} {...step} />);
    expect(screen.getByText("Keep it to yourself.").getAttribute("lang")).toBe("en");
    await userEvent.click(screen.getByRole("button", { name: "I accept" }));
    await waitFor(() => expect(step.onChange).toHaveBeenCalledWith(next));
    expect(service.asked[0]!.body).toEqual({ terms: "house-rules" });
  });

  it("can be left without accepting", async () => {
    const step = steps();
    render(<TermsPage attempt={attempt({ state: "proved", terms })} {...step} />);
    await userEvent.click(screen.getByRole("button", { name: "Stop here" }));
    expect(step.onRestart).toHaveBeenCalled();
  });

  it("that changed meanwhile are told", async () => {
    serve({ "POST /portal/attempt/terms": [422, problem("other-terms", "These aren't the terms that were shown.")] });
    render(<TermsPage attempt={attempt({ state: "proved", terms })} {...steps()} />);
    await userEvent.click(screen.getByRole("button", { name: "I accept" }));
    expect(await screen.findByText("These aren't the terms that were shown.")).toBeTruthy();
  });
});

describe("what came of it", () => {
  const account = (directory: string, state: string, more: object = {}) => ({
    directory,
    login: "astrid",
    state,
    ...more,
  });

  it.each([
    ["completed", "reset", [account("Shore", "done")], "Your new password works"],
    ["completed", "unlock", [account("Shore", "done")], "Your account is unlocked"],
    ["completed", "details", [], "You’re all set"],
    ["incomplete", "reset", [account("Shore", "done"), account("Fleet", "failed")], "Partly done"],
    ["incomplete", "reset", [account("Shore", "done"), account("Fleet", "unknown")], "We’re not sure it worked"],
    ["blocked", "reset", [], "No tries left"],
    ["expired", "reset", [], "You ran out of time"],
    ["failed", "reset", [account("Shore", "failed")], "Your password hasn’t changed"],
    ["failed", "unlock", [account("Shore", "failed")], "Your account is still locked"],
  ])("is told for %s %s", (state, action, accounts, title) => {
    serve({ "GET /portal/attempt": [200, attempt()] });
    render(<ResultPage attempt={attempt({ state, action, accounts })} {...steps()} />);
    expect(screen.getByRole("heading").textContent).toBe(title);
    expect(Boolean(screen.queryByRole("button", { name: "Start again" }))).toBe(state !== "completed");
    expect(Boolean(screen.queryByText(/Give them the reference/))).toBe(state !== "completed");
  });

  it("says for each account what happened and when it can be tried again", () => {
    render(
      <ResultPage
        attempt={attempt({
          state: "incomplete",
          accounts: [
            account("Shore", "done"),
            account("Fleet", "refused", {
              says: "It was changed too recently.",
              retryAt: new Date(Date.now() + 86_400_000).toISOString(),
            }),
          ],
        })}
        {...steps()}
      />,
    );
    expect(screen.getByText("new password set")).toBeTruthy();
    expect(screen.getByText("It was changed too recently.")).toBeTruthy();
    expect(screen.getByText(/You can change it again tomorrow at/)).toBeTruthy();
  });

  it("looks again while something is not certain", async () => {
    vi.useFakeTimers();
    const settled = attempt({ state: "completed" });
    const service = serve({ "GET /portal/attempt": [200, settled] });
    const step = steps();
    render(
      <ResultPage attempt={attempt({ state: "incomplete", accounts: [account("Fleet", "unknown")] })} {...step} />,
    );
    expect(service.calls()).toEqual([]);
    await vi.advanceTimersByTimeAsync(5100);
    expect(step.onChange).toHaveBeenCalledWith(settled);
  });

  it("lets a person go on where the service says that they may", async () => {
    const next = attempt({ state: "proved" });
    serve({ "POST /portal/attempt/continuation": [200, next] });
    const step = steps();
    render(
      <ResultPage
        attempt={attempt({ state: "incomplete", mayGoOn: true, accounts: [account("Fleet", "failed")] })}
        {...step}
      />,
    );
    await userEvent.click(screen.getByRole("button", { name: "Try again for the rest" }));
    await waitFor(() => expect(step.onChange).toHaveBeenCalledWith(next));
  });
});

describe("this was not me", () => {
  it("raises the alarm by a click and not by being opened", async () => {
    window.location.hash = "#token-of-the-link";
    const service = serve({
      "POST /portal/alarms/find": [200, { ends: false, mayClose: false }],
      "POST /portal/alarms": [200, { reference: "R 1234 5678", helpDesk: "call 01632 960 100" }],
    });
    render(<NotMe />);
    await userEvent.click(await screen.findByRole("button", { name: /raise the alarm/ }));
    expect(await screen.findByText("Alarm raised")).toBeTruthy();
    expect(screen.getByText("R 1234 5678")).toBeTruthy();
    expect(service.calls()).toEqual(["POST /portal/alarms/find", "POST /portal/alarms"]);
    expect(service.asked[1]!.body).toEqual({ token: "token-of-the-link", close: false });
  });

  it("says what an alarm brought about", async () => {
    const service = serve({
      "POST /portal/alarms/find": [200, { ends: true, mayClose: true }],
      "POST /portal/alarms": [
        201,
        { reference: "R 1234 5678", organisation: "Skerry Line", helpDesk: "call 2 42", ended: true, closed: true },
      ],
    });
    render(<NotMe />);
    expect(await screen.findByText(/not even by you/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Raise the alarm and close everything" }));
    expect(await screen.findByText(/has been stopped/)).toBeTruthy();
    expect(screen.getByText(/nothing can be done in your name/)).toBeTruthy();
    expect(service.asked[1]!.body).toEqual({ token: "token-of-the-link", close: true });
  });

  it("says what to do when the link is too old", async () => {
    serve({ "POST /portal/alarms/find": [410, problem("link-old", "This link is too old. Call the help desk.")] });
    render(<NotMe />);
    expect(await screen.findByText("This link is too old. Call the help desk.")).toBeTruthy();
  });
});

describe("the page of a message that can be done without", () => {
  it("switches it off by a click, and on again", async () => {
    const answers = [
      { about: "unlock", told: false },
      { about: "unlock", told: true },
    ];
    window.location.hash = "#token-of-the-link";
    const service = serve({ "POST /portal/quiet": [200, answers[0]] });
    render(<Quiet />);
    expect(service.calls()).toEqual([]);
    await userEvent.click(screen.getByRole("button", { name: "Don’t send me these any more" }));
    expect(await screen.findByText("You won’t be told any more when your account was unlocked.")).toBeTruthy();
    expect(service.asked[0]!.body).toEqual({ token: "token-of-the-link", off: true });
    const again = serve({ "POST /portal/quiet": [200, answers[1]] });
    await userEvent.click(screen.getByRole("button", { name: "Send them to me again" }));
    expect(await screen.findByText("You will be told when your account was unlocked.")).toBeTruthy();
    expect(again.asked[0]!.body).toEqual({ token: "token-of-the-link", off: false });
  });
});

describe("the first page", () => {
  const open = (more: object, paths: Parameters<typeof serve>[0] = {}) => {
    const service = serve({
      "GET /portal/context": [200, { ...context, ...more }],
      "GET /portal/attempt": [404, problem("attempt-gone", "There is no attempt.")],
      ...paths,
    });
    render(
      <Shell>
        <Recovery />
      </Shell>,
    );
    return service;
  };

  it("asks what brings people here when there is a choice", async () => {
    open({});
    expect(await screen.findByText("How can we help?")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /My account is locked/ }));
    expect(screen.getByRole("heading").textContent).toBe("Unlock your account");
    await userEvent.click(screen.getByRole("button", { name: "Back" }));
    expect(screen.getByText("How can we help?")).toBeTruthy();
  });

  it("goes straight to the name when there is none", async () => {
    const service = open({ actions: ["reset"] });
    expect(await screen.findByLabelText("Your sign-in name")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Continue" }));
    expect(screen.getByText("Type the name you sign in with.")).toBeTruthy();
    expect(service.calls()).not.toContain("POST /portal/attempts");
  });

  it("says that no code can be sent, before anybody types anything", async () => {
    open({ ready: false });
    expect(await screen.findByText("Not available right now")).toBeTruthy();
    expect(screen.getByText(/contact the help desk: call 01632 960 100/)).toBeTruthy();
  });

  it("says when to come back when everything is paused", async () => {
    const until = new Date();
    until.setDate(until.getDate() + 2);
    open({
      paused: [
        { action: "reset", until: until.toISOString() },
        { action: "unlock", until: new Date(until.getTime() + 1000).toISOString() },
      ],
    });
    expect(await screen.findByText("Paused for now")).toBeTruthy();
    expect(screen.getByText(/Come back on \w+ \d+ \w+ at/)).toBeTruthy();
  });

  it("lets nobody choose what is paused", async () => {
    open({ paused: [{ action: "unlock", until: null }] });
    await screen.findByText("How can we help?");
    expect(screen.getByRole("button", { name: /My account is locked/ })).toHaveProperty("disabled", true);
    expect(screen.getByRole("button", { name: /I forgot my password/ })).toHaveProperty("disabled", false);
  });
});

describe("a service that is away", () => {
  beforeEach(() => vi.useFakeTimers());

  it.each([
    ["nothing answers", "away"],
    ["a proxy answers for it", [502]],
    ["its database is away", [503, problem("unavailable", "The service can't reach its database right now.")]],
  ] as const)("is asked again until it is back: %s", async (_, first) => {
    const answer = first === "away" ? first : ([...first] as [number, unknown]);
    const service = serve({ "GET /portal/attempt": turns(answer, answer, [200, attempt()]) });
    const found = api.attempt();
    await vi.advanceTimersByTimeAsync(3000);
    expect((await found)!.reference).toBe("R 1234 5678");
    expect(service.calls()).toHaveLength(3);
  });

  it("is not asked again when it means what it says", async () => {
    const service = serve({ "GET /portal/attempt": [503, problem("stopped", "Paused.", { until: null })] });
    await expect(api.attempt()).rejects.toMatchObject({ type: "stopped", message: "Paused." });
    expect(service.calls()).toHaveLength(1);
  });

  it("is given up after a minute with a sentence", async () => {
    serve({ "GET /portal/attempt": "away" });
    const found = api.attempt().catch((e: unknown) => e);
    await vi.advanceTimersByTimeAsync(70_000);
    const gone = await found;
    expect(gone).toBeInstanceOf(Problem);
    expect((gone as Problem).message).toBe("There is no connection right now. Check it, then try again.");
  });
});
