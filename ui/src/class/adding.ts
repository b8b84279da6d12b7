import { ref } from 'vue'

/** Whether a new class is being added. */
export const adding = ref(false)
