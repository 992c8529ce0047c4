declare module '@fontsource-variable/*'
