import { ref } from 'vue'

/** Whether a new class is being hung up. */
export const hanging = ref(false)
