/** Files that are ready go to the downloads. */
import type { Delivery } from "../../api/client";

function fetched(href: string, name: string) {
  const link = document.createElement("a");
  link.href = href;
  link.download = name;
  link.click();
}

export function save(delivery: Delivery) {
  fetched(`/api/deliveries/${delivery.id}/file`, delivery.file_name);
}

/** What was begun together, as one ZIP. */
export function saveBatch(batch: string, name: string) {
  fetched(`/api/deliveries-packed?batch=${batch}`, `${name}.zip`);
}

/** Several as one ZIP. */
export function saveTogether(deliveries: readonly Delivery[], name: string) {
  fetched(`/api/deliveries-packed?ids=${deliveries.map((d) => d.id).join(",")}`, `${name}.zip`);
}
