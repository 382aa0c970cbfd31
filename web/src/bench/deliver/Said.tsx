/** What the portrait's own file says of it in words; files made of it say so, too. */
import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";

export function Said({ portrait, kept }: { portrait: string; kept: boolean }) {
  const { data } = useQuery({
    queryKey: ["said", portrait],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/said", { params: { path: { portrait_id: portrait } } })),
    staleTime: Infinity,
  });
  if (!data?.length) return null;
  return (
    <details className="mg-told-group">
      <summary>
        What its file says <small>{data.map((s) => s.title.toLowerCase()).join(", ")}</small>
      </summary>
      <dl aria-label="What its file says">
        {data.map(({ title, text }) => (
          <div key={title}>
            <dt>{title}</dt>
            <dd>{text}</dd>
          </div>
        ))}
      </dl>
      <p className="mg-hint">
        {kept
          ? "Delivered files say so, too; places only with location. What you write under Who made it goes before it."
          : "Left out of delivered files, for what the camera and the file say isn't kept."}
      </p>
    </details>
  );
}
