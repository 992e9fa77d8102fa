/** The room of the rows of a table that are not drawn. */
export function Gap({ height, columns }: { height: number; columns: number }) {
  return height > 0 ? (
    <tr aria-hidden="true" style={{ height }}>
      <td colSpan={columns} className="p-0" />
    </tr>
  ) : null;
}
