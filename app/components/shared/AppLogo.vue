<template>
  <svg
    viewBox="0 0 22 22"
    width="22"
    height="22"
    fill="none"
    stroke="currentColor"
    stroke-width="2"
    aria-hidden="true"
  >
    <path d="M2 2v18M20 2v18M2 6h18M7 20v-9h8v9M11 11v9" />
  </svg>
</template>
