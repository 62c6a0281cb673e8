// @vitest-environment jsdom
import { QueryClient, QueryClientProvider, useInfiniteQuery } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter, Route, Routes, useLocation } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem, said } from "../shared/problem";
import { problem, serve } from "../shared/service-double";
import { Field, Select } from "../shared/ui";
import { Paged, Table, Time } from "./parts";
import { First, SignIn } from "./sign-in";

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
    await userEvent.click(screen.getByRole("button", { name: "Make me an administrator" }));
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
      .mockRejectedValueOnce(new Problem(503, "unavailable", "The service cannot reach its database right now."))
      .mockResolvedValue({ items: [{ id: "a" }], after: "" });
    show(<List pages={pages} />);
    expect(await screen.findByText("The service cannot reach its database right now.")).toBeTruthy();
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
    expect(said(new TypeError("x is undefined"), "It was not changed. Try again.")).toBe(
      "It was not changed. Try again.",
    );
  });
});
