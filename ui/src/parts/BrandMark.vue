<template>
  <span class="mark display"><img src="/mark.svg" alt="" width="30" height="28" /><span>Jolly Satchel</span></span>
</template>

<style scoped>
.mark {
  display: flex;
  align-items: center;
  gap: 9px;
  font-size: 19px;
  line-height: 1;
}
</style>
