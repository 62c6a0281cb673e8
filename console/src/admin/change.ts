import "@tanstack/react-query";

declare module "@tanstack/react-query" {
  interface Register {
    /** What a change says of itself; the console's one handler does the rest. */
    mutationMeta: {
      /** Its page tells when it fails; otherwise the console tells at its foot. */
      saidHere?: boolean;
      /** First words of the names of queries that are asked anew afterwards; all, if nothing is said. */
      touches?: string[];
      /** The next change need not wait for what is asked anew. */
      goesOn?: boolean;
    };
  }
}
