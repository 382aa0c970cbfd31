export function Brand() {
  return (
    <span className="mg-brand">
      <img src="/glass.svg" alt="" width={22} height={22} />
      Mellow Glass
    </span>
  );
}
