/** The bench book's own look for the component library: paper, ink, cork and pine; nothing of a stock theme remains visible. */
import { definePreset } from '@primeuix/themes';
import Nora from '@primeuix/themes/nora';

const pine = {
  50: '#eef5f3',
  100: '#d6e6e3',
  200: '#b3d0cb',
  300: '#7cc4ba',
  400: '#4b9990',
  500: '#2f7a73',
  600: '#1f5c58',
  700: '#194c49',
  800: '#153d3b',
  900: '#112f2e',
  950: '#0a1e1d',
};

export const preset = definePreset(Nora, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '3px', md: '4px', lg: '6px', xl: '8px' } },
  semantic: {
    primary: pine,
    focusRing: { width: '2px', style: 'solid', color: 'var(--pine)', offset: '1px' },
    formField: { paddingX: '0.6rem', paddingY: '0.34rem', borderRadius: '4px' },
    colorScheme: {
      light: {
        surface: {
          0: '#fbf7ee',
          50: '#f7f1e4',
          100: '#f3ecdd',
          200: '#e6d9c3',
          300: '#d8ccb6',
          400: '#b6ab96',
          500: '#5f6763',
          600: '#4e5a57',
          700: '#36403f',
          800: '#1f2a2a',
          900: '#161c1c',
          950: '#0e1212',
        },
        primary: { color: '#1f5c58', contrastColor: '#fbf7ee', hoverColor: '#194c49', activeColor: '#153d3b' },
        text: { color: '#1f2a2a', hoverColor: '#1f2a2a', mutedColor: '#4e5a57', hoverMutedColor: '#4e5a57' },
        formField: {
          background: '#fbf7ee',
          borderColor: '#d8ccb6',
          hoverBorderColor: '#4e5a57',
          focusBorderColor: '#1f5c58',
          color: '#1f2a2a',
          placeholderColor: '#5f6763',
        },
        overlay: {
          select: { background: '#fbf7ee', borderColor: '#d8ccb6' },
          popover: { background: '#fbf7ee', borderColor: '#d8ccb6' },
          modal: { background: '#fbf7ee', borderColor: '#d8ccb6' },
        },
      },
      dark: {
        surface: {
          0: '#f0e9db',
          50: '#d9d6cb',
          100: '#b4bdb6',
          200: '#93a09a',
          300: '#6d7a76',
          400: '#55625f',
          500: '#3a4744',
          600: '#2f3a38',
          700: '#28312f',
          800: '#212a29',
          900: '#1b2322',
          950: '#161c1c',
        },
        primary: { color: '#7cc4ba', contrastColor: '#12201f', hoverColor: '#95d3ca', activeColor: '#aee0d8' },
        text: { color: '#f0e9db', hoverColor: '#f0e9db', mutedColor: '#b4bdb6', hoverMutedColor: '#b4bdb6' },
        formField: {
          background: '#1b2322',
          borderColor: '#3a4744',
          hoverBorderColor: '#93a09a',
          focusBorderColor: '#7cc4ba',
          color: '#f0e9db',
          placeholderColor: '#93a09a',
        },
        overlay: {
          select: { background: '#212a29', borderColor: '#3a4744' },
          popover: { background: '#212a29', borderColor: '#3a4744' },
          modal: { background: '#212a29', borderColor: '#3a4744' },
        },
      },
    },
  },
});
