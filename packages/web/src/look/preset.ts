/** PrimeNG in our own dress: its design tokens, set from the tokens of `styles.css`. */
import { definePreset } from '@primeuix/themes';

const surface = {
  0: 'var(--leaf)',
  50: 'var(--paper)',
  100: 'var(--header)',
  200: 'var(--hairline)',
  300: 'var(--hairline)',
  400: 'var(--soft-ink)',
  500: 'var(--soft-ink)',
  600: 'var(--soft-ink)',
  700: 'var(--ink)',
  800: 'var(--ink)',
  900: 'var(--ink)',
  950: 'var(--ink)',
};

const scheme = {
  surface,
  primary: {
    color: 'var(--ink)',
    contrastColor: 'var(--leaf)',
    hoverColor: 'var(--ink)',
    activeColor: 'var(--ink)',
  },
  text: {
    color: 'var(--ink)',
    hoverColor: 'var(--ink)',
    mutedColor: 'var(--soft-ink)',
    hoverMutedColor: 'var(--soft-ink)',
  },
  content: {
    background: 'var(--leaf)',
    hoverBackground: 'var(--header)',
    borderColor: 'var(--hairline)',
    color: 'var(--ink)',
    hoverColor: 'var(--ink)',
  },
};

const focusRing = { width: '2px', style: 'solid', color: 'var(--thread)', offset: '2px', shadow: 'none' };

/** The tokens that check boxes and radio buttons share. */
const tick = {
  width: '15px',
  height: '15px',
  background: 'var(--leaf)',
  checkedBackground: 'var(--thread)',
  checkedHoverBackground: 'var(--thread)',
  disabledBackground: 'var(--header)',
  borderColor: 'var(--eyelet)',
  hoverBorderColor: 'var(--ink)',
  focusBorderColor: 'var(--ink)',
  checkedBorderColor: 'var(--thread)',
  checkedHoverBorderColor: 'var(--thread)',
  checkedFocusBorderColor: 'var(--thread)',
  checkedDisabledBorderColor: 'var(--hairline)',
  shadow: 'none',
  transitionDuration: '100ms',
  focusRing,
};
const tickIcon = {
  checkedColor: 'var(--leaf)',
  checkedHoverColor: 'var(--leaf)',
  disabledColor: 'var(--soft-ink)',
};

export const preset = definePreset(
  {
    primitive: { borderRadius: { none: '0', xs: '2px', sm: '4px', md: '6px', lg: '8px', xl: '10px' } },
    semantic: {
      transitionDuration: '100ms',
      focusRing,
      content: { borderRadius: '10px' },
      overlay: { popover: { borderRadius: '10px', padding: '14px', shadow: '0 8px 28px rgb(35 38 45 / 0.16)' } },
      colorScheme: { light: scheme, dark: scheme },
    },
    components: {
      popover: {
        root: {
          background: 'var(--leaf)',
          borderColor: 'var(--hairline)',
          color: 'var(--ink)',
          borderRadius: '10px',
          shadow: '0 8px 28px rgb(35 38 45 / 0.16)',
          gutter: '8px',
          arrowOffset: '20px',
        },
        content: { padding: '14px 16px' },
      },
      checkbox: { root: { ...tick, borderRadius: '4px' }, icon: { ...tickIcon, size: '11px', color: 'var(--leaf)' } },
      radiobutton: { root: tick, icon: { ...tickIcon, size: '7px' } },
      tooltip: {
        root: {
          background: 'var(--ink)',
          color: 'var(--leaf)',
          borderRadius: '6px',
          padding: '5px 10px',
          maxWidth: '340px',
          shadow: 'none',
          gutter: '4px',
        },
      },
    },
  },
  {},
);
