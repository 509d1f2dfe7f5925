/// <reference types="vite/client" />
declare module "@fontsource-variable/public-sans";
declare module "@fontsource-variable/spline-sans-mono";
