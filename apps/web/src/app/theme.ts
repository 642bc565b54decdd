import { Button, createTheme, type MantineColorsTuple } from '@mantine/core';

const fjord: MantineColorsTuple = [
  '#e9f4f5',
  '#d9eceb',
  '#b3d7da',
  '#88bfc4',
  '#5ea6ad',
  '#2f7f89',
  '#0b5f6b',
  '#0a5560',
  '#084852',
  '#063a42',
];

/** Fjord is for what can be pressed or is chosen; everything else has its role in tokens.css. */
export const theme = createTheme({
  fontFamily: "'Instrument Sans Variable', sans-serif",
  fontFamilyMonospace: "'Spline Sans Mono Variable', monospace",
  headings: { fontFamily: "'Instrument Sans Variable', sans-serif" },
  colors: { fjord },
  primaryColor: 'fjord',
  primaryShade: { light: 6, dark: 5 },
  defaultRadius: 'md',
  respectReducedMotion: true,
  cursorType: 'pointer',
  components: {
    Button: Button.extend({
      vars: (_theme, props) => ({ root: props.size === 'compact-xs' ? {} : { '--button-fz': '13.5px' } }),
      styles: { label: { fontWeight: 550 } },
    }),
  },
});
