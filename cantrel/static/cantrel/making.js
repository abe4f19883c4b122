// Something that takes a while is made: begun, asked after twice a second, fetched when it is there.
document.addEventListener("alpine:init", () => {
  Alpine.data("making", () => ({
    busy: false,
    said: "",
    async begin() {
      if (this.busy) return;
      this.busy = true;
      const form = this.$el;
      const bar = form.querySelector("progress");
      bar.removeAttribute("value");
      try {
        const begun = await fetch(form.action, { method: "POST", body: new FormData(form), headers: { "X-Requested-With": "fetch" } });
        let now = await begun.json();
        while (now.state === "making") {
          this.said = now.said;
          bar.value = now.percent;
          await new Promise((later) => setTimeout(later, 500));
          now = await (await fetch(now.ask, { headers: { Accept: "application/json" } })).json();
        }
        this.said = now.said;
        if (now.state === "there") location.href = now.file;
      } catch (error) {
        this.said = error.message;
      }
      this.busy = false;
    },
  }));
});
