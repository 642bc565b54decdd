import { csvText } from './csv.js';

test('a table has its header row, over no rows as well', () => {
  expect(csvText(['picture', 'note'], [])).toBe('picture,note\r\n');
  expect(csvText(['picture', 'note'], [{ note: 'held', picture: 3 }, { picture: 4 }])).toBe('picture,note\r\n3,held\r\n4,\r\n');
});

test('what a spreadsheet would take for a formula is text, and commas and quotes stay within their cell', () => {
  expect(csvText(['note'], [{ note: '=1+1' }, { note: 'a, "b"' }])).toBe('note\r\n"\'=1+1"\r\n"a, ""b"""\r\n');
});
