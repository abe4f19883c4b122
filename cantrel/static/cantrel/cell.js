// A load cell's live figures: asked for four times a second while the page is looked at.
document.addEventListener("alpine:init", () => {
  Alpine.data("cell", () => ({
    timer: 0,
    init() {
      this.timer = setInterval(() => this.ask(), 250);
    },
    destroy() {
      clearInterval(this.timer);
    },
    async ask() {
      if (document.hidden) return;
      try {
        const answer = await fetch(this.$el.dataset.now, { headers: { Accept: "application/json" } });
        if (!answer.ok) return;
        const said = await answer.json();
        for (const name of ["value", "peak", "seconds", "said"]) {
          this.$el.querySelector(`[data-cell=${name}]`).textContent = said[name];
        }
        if (!said.open) location.reload();
      } catch {
        this.$el.querySelector("[data-cell=said]").textContent = this.$el.dataset.lost || "";
      }
    },
  }));
});
