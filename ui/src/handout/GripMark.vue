<template>
  <svg width="12" height="14" viewBox="0 0 12 14" aria-hidden="true">
    <path d="M1 4h10M1 7h10M1 10h10" stroke="currentColor" stroke-width="1.4" stroke-linecap="round" />
  </svg>
</template>
