// @vitest-environment jsdom
import { QueryClient, QueryClientProvider, useInfiniteQuery } from "@tanstack/react-query";
import { act, cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter, Route, Routes, useLocation } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem, said } from "../shared/problem";
import { problem, serve, turns } from "../shared/service-double";
import { Field, Select } from "../shared/ui";
import { Loading, Paged, Table, Time } from "./parts";
import { Confirmations } from "./again";
import { api, data } from "./api";
import { First, SignIn } from "./sign-in";
import { LastTold, changeFailed } from "./told";

function show(page: ReactNode, at: string | { pathname: string; state: unknown } = "/sign-in") {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[at]}>
        <Routes>
          <Route path="/sign-in" element={page} />
          <Route path="/first" element={page} />
          <Route path="*" element={<Where />} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}

const Where = () => <p>at {useLocation().pathname}</p>;

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("signing in", () => {
  const type = async () => {
    await userEvent.type(screen.getByLabelText("Sign-in name"), "ingeborg");
    await userEvent.type(screen.getByLabelText("Password"), "quay-lantern-demo");
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
  };

  it("looks first, so that there is a token against other sites, and goes back to where one came from", async () => {
    const service = serve({
      "GET /session": [401, problem("signed-out", "Sign in first.")],
      "POST /session": [200, { login: "ingeborg" }],
    });
    show(<SignIn />, { pathname: "/sign-in", state: { back: "/policies/rules" } });
    await type();
    expect(await screen.findByText("at /policies/rules")).toBeTruthy();
    expect(service.calls()).toEqual(["GET /session", "POST /session"]);
    expect(service.asked[1]!.body).toEqual({ login: "ingeborg", password: "quay-lantern-demo" });
  });

  it("asks for the second factor where there is one, and sends it with the rest", async () => {
    const service = serve({
      "GET /session": [204],
      "POST /session": turns([401, problem("second-factor", "Type the code.")], [200, { login: "ingeborg" }]),
    });
    show(<SignIn />, { pathname: "/sign-in", state: { back: "/settings" } });
    await type();
    await userEvent.type(await screen.findByLabelText(/Code of your authenticator app/), "123456");
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText("at /settings")).toBeTruthy();
    expect(service.asked.at(-1)!.body).toMatchObject({ login: "ingeborg", code: "123456" });
  });

  it("says what was wrong and keeps what was typed", async () => {
    serve({
      "GET /session": [401, problem("signed-out", "Sign in first.")],
      "POST /session": [401, problem("sign-in", "Name or password is wrong. Check both and try again.")],
    });
    show(<SignIn />);
    await type();
    expect(await screen.findByText("Name or password is wrong. Check both and try again.")).toBeTruthy();
    expect(screen.getByLabelText("Sign-in name")).toHaveProperty("value", "ingeborg");
    expect(screen.getByRole("button", { name: "Sign in" })).toHaveProperty("disabled", false);
  });

  it("says that nothing answers", async () => {
    serve({ "GET /session": "away", "POST /session": "away" });
    show(<SignIn />);
    await type();
    expect(await screen.findByText(/The service does not answer/)).toBeTruthy();
  });

  it("makes the first administrator with the token of the link, which no server sees in an address", async () => {
    window.location.hash = "#one-time";
    const service = serve({ "POST /first-administrator": [201, { login: "ingeborg" }] });
    show(<First />, "/first");
    await userEvent.type(screen.getByLabelText("Your name"), "Ingeborg");
    await userEvent.type(screen.getByLabelText("Sign-in name"), "ingeborg");
    await userEvent.type(screen.getByLabelText("Password"), "quay-lantern-demo");
    await userEvent.click(screen.getByRole("button", { name: "Create my account" }));
    await waitFor(() => expect(service.calls()).toEqual(["POST /first-administrator"]));
    expect(service.asked[0]!.body).toMatchObject({ token: "one-time", login: "ingeborg", name: "Ingeborg" });
  });
});

describe("what comes in pages", () => {
  interface Row {
    id: string;
  }

  function List({ pages }: { pages: (page: string) => Promise<{ items: Row[]; after: string }> }) {
    const query = useInfiniteQuery({
      queryKey: ["rows"],
      queryFn: ({ pageParam }) => pages(pageParam),
      initialPageParam: "",
      getNextPageParam: (page) => page.after || undefined,
    });
    return (
      <Paged query={query} beside={(rows: Row[]) => <span>{rows.length} shown</span>}>
        {(rows) => (
          <Table
            name="Rows"
            rows={rows}
            keyOf={(row) => row.id}
            empty="None yet."
            columns={[{ title: "Id", value: (row) => row.id }]}
          />
        )}
      </Paged>
    );
  }

  it("is shown a page at a time", async () => {
    const pages = vi.fn((after: string) =>
      Promise.resolve(after ? { items: [{ id: "c" }], after: "" } : { items: [{ id: "a" }, { id: "b" }], after: "b" }),
    );
    show(<List pages={pages} />);
    expect(await screen.findByText("2 shown")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Show more" }));
    expect(await screen.findByText("3 shown")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Show more" })).toBeNull();
    expect(pages.mock.calls.map(([after]) => after)).toEqual(["", "b"]);
  });

  it("says so when there is nothing", async () => {
    show(<List pages={() => Promise.resolve({ items: [], after: "" })} />);
    expect(await screen.findByText("None yet.")).toBeTruthy();
    expect(screen.queryByRole("table")).toBeNull();
  });

  it("says what went wrong and tries again", async () => {
    const pages = vi
      .fn<(after: string) => Promise<{ items: Row[]; after: string }>>()
      .mockRejectedValueOnce(new Problem(503, "unavailable", "The service can't reach its database right now."))
      .mockResolvedValue({ items: [{ id: "a" }], after: "" });
    show(<List pages={pages} />);
    expect(await screen.findByText("The service can't reach its database right now.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(await screen.findByText("1 shown")).toBeTruthy();
  });
});

describe("parts of forms", () => {
  it("tie help and what is wrong to their field", () => {
    render(<Field label="Lives" hint="From 1m to 1h" error="Not a time." />);
    const field = screen.getByLabelText("Lives");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    const described = field.getAttribute("aria-describedby")!.split(" ");
    expect(described.map((id) => document.getElementById(id)?.textContent)).toEqual(["From 1m to 1h", "Not a time."]);
  });

  it("say nothing is wrong when nothing is", () => {
    render(<Field label="Lives" />);
    expect(screen.getByLabelText("Lives").hasAttribute("aria-invalid")).toBe(false);
    expect(screen.getByRole("alert").textContent).toBe("");
  });

  it("name what holds while nothing is chosen", async () => {
    const chosen = vi.fn();
    render(
      <Select label="Counts as" value="" options={["", "knowledge"]} empty="possession, as usual" onChange={chosen} />,
    );
    expect(screen.getByRole("option", { selected: true }).textContent).toBe("possession, as usual");
    await userEvent.selectOptions(screen.getByLabelText("Counts as"), "knowledge");
    expect(chosen).toHaveBeenCalledWith("knowledge");
  });

  it("tell a time that never was as never", () => {
    render(<Time at={null} />);
    expect(screen.getByText("never")).toBeTruthy();
  });
});

describe("what is said of a failure", () => {
  it("is the service's own sentence, else one for the place", () => {
    expect(said(new Problem(409, "conflict", "Another has changed it."))).toBe("Another has changed it.");
    expect(said(new TypeError("x is undefined"))).toBe("Something went wrong. Try again.");
    expect(said(new TypeError("x is undefined"), "The change wasn’t made. Try again.")).toBe(
      "The change wasn’t made. Try again.",
    );
  });
});

describe("a page whose refresh failed", () => {
  it("stays, with what was typed in it, and says that it may be out of date", async () => {
    const again = vi.fn();
    const page = (error: unknown) => (
      <Loading query={{ isPending: false, error, data: { there: true }, refetch: again }}>
        {() => <input aria-label="Note" />}
      </Loading>
    );
    const shown = render(page(null));
    await userEvent.type(screen.getByLabelText("Note"), "half a sentence");
    shown.rerender(page(new Problem(503, "unavailable", "The service is away.")));
    expect(screen.getByText("The service is away.")).toBeTruthy();
    expect(screen.getByLabelText("Note")).toHaveProperty("value", "half a sentence");
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(again).toHaveBeenCalledOnce();
  });
});

describe("a change that failed", () => {
  it("is told even where its page says nothing", async () => {
    render(<LastTold />);
    act(() => changeFailed(new Problem(409, "changed", "Somebody else changed it meanwhile.")));
    expect(screen.getByRole("alert").textContent).toContain("Somebody else changed it meanwhile.");
    await userEvent.click(screen.getByRole("button", { name: "Put away" }));
    expect(screen.queryByRole("alert")).toBeNull();
  });
});

describe("something dangerous", () => {
  it("asks for the second factor again, and is then done without asking for anything twice", async () => {
    const service = serve({
      "POST /administrators": turns([403, problem("confirm", "Confirm that it is you.")], [201, { login: "bo" }]),
      "POST /me/confirmation": [204],
    });
    show(<Confirmations />);
    const body = { login: "bo", name: "Bo", password: "a long enough one" };
    const done = data(api.POST("/api/v1/administrators", { body }));
    await userEvent.type(await screen.findByLabelText(/Code of your authenticator app/), "123456");
    await userEvent.click(screen.getByRole("button", { name: "Go on" }));
    expect((await done).login).toBe("bo");
    expect(service.calls()).toEqual(["POST /administrators", "POST /me/confirmation", "POST /administrators"]);
    expect(service.asked.at(-1)!.body).toEqual(body);
  });

  it("is not done when nobody shows it", async () => {
    const service = serve({ "POST /administrators": [403, problem("confirm", "Confirm that it is you.")] });
    show(<Confirmations />);
    const done = data(api.POST("/api/v1/administrators", { body: { login: "bo", name: "Bo", password: "x" } })).catch(
      (e: unknown) => e,
    );
    await userEvent.click(await screen.findByRole("button", { name: "Not now" }));
    expect(await done).toMatchObject({ type: "confirm" });
    expect(service.calls()).toEqual(["POST /administrators"]);
  });
});
