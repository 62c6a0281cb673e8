import { useQuery } from "@tanstack/react-query";
import { api, data } from "./api";
import { Loading, PageHead, Table, Time } from "./parts";
import { Restore } from "./restore";

/** The history: every published state, and the way back to it. */
export function Revisions() {
  const revisions = useQuery({ queryKey: ["revisions"], queryFn: () => data(api.GET("/api/v1/revisions")) });
  return (
    <>
      <PageHead title="Revisions" under="Every state that was published. The newest is in force." />
      <Loading query={revisions}>
        {() => (
          <Table
            name="Revisions"
            rows={revisions.data!}
            keyOf={(one) => String(one.number)}
            empty="None yet."
            columns={[
              { title: "Revision", value: (one) => <strong className="font-medium">{one.number}</strong> },
              { title: "Published", value: (one) => <Time at={one.publishedAt} /> },
              { title: "By", value: (one) => one.author },
              { title: "Note", wide: true, value: (one) => one.note },
              {
                title: "",
                value: (one) =>
                  one.number < revisions.data![0]!.number && (
                    <Restore number={one.number} next={revisions.data![0]!.number + 1} />
                  ),
              },
            ]}
          />
        )}
      </Loading>
    </>
  );
}
