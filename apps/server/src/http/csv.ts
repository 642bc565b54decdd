import Papa from 'papaparse';

/** A table for other programs (RFC 4180): its header row stands even over no rows; cells that a spreadsheet would take for a formula are quoted as text. */
export function csvText<K extends string>(fields: readonly K[], rows: readonly Readonly<Partial<Record<K, unknown>>>[]): string {
  const data = rows.map((row) => fields.map((field) => row[field]));
  return `${Papa.unparse([[...fields], ...data], { escapeFormulae: true })}\r\n`;
}
