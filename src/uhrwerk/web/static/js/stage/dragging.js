// Taking hold of a part: it moves within its freedoms while the server solves, and says what stops it.
import { block, readPoses } from "../shared/api.js";
import { shownRevision } from "../shared/page_state.js";

/** @param {Page} page */
export function holding(page) {
  let socket = null,
    revision = -1,
    wanted = null,
    waiting = false,
    ended = null;

  return /** @satisfies {ThisType<Workspace>} */ ({
    held: "",
    stopAtContact: false,

    grabAt(e) {
      const hit = page.stage.solidUnder(e);
      return hit ? this.grab(hit.placed, hit.point) : false;
    },
    // true where the hold begins; the view is turned otherwise
    grab(placed, point) {
      const info = page.view.placed.find((p) => p.id === placed);
      if (!info || this.picking || this.playing || info.leftOut || this.panel === "move") return false;
      if (info.frame) {
        this.hint = info.isFrame ? `${info.name} is the frame: it cannot move` : `${info.name} is fixed to the frame`;
        return false;
      }
      const first = {
        take: placed,
        at: point,
        frame: this.view.moving && !this.handPosed ? this.part * (this.view.frames || 0) : null,
        contact: this.stopAtContact,
      };
      this.held = placed;
      wanted = null;
      ended = null;
      this.hint = `dragging ${info.name}`;
      if (socket && revision === shownRevision(this.state) && socket.readyState === 1) this.say(first);
      else {
        socket?.close();
        revision = shownRevision(this.state);
        const at = new URL(`${page.api}/revisions/${revision}/hold`, window.location.href);
        at.protocol = at.protocol.replace("http", "ws");
        socket = new WebSocket(at);
        socket.onopen = () => this.say(first);
        socket.onmessage = (e) => this.heard(JSON.parse(e.data));
        socket.onclose = () => {
          if (this.held) {
            this.held = "";
            this.hint = "The drag ended: the server closed the connection";
          }
        };
      }
      waiting = true;
      return true;
    },
    say(message) {
      socket.send(JSON.stringify(message));
      waiting = true;
    },
    drag(point) {
      wanted = point;
      if (!waiting && socket?.readyState === 1) this.send();
    },
    send() {
      const to = wanted;
      wanted = null;
      this.say({ to });
    },
    drop() {
      if (!this.held) return;
      ended = true;
      if (!waiting && socket?.readyState === 1) {
        this.say({ release: true });
        ended = false;
      }
    },
    heard(answer) {
      waiting = false;
      if (answer.error) {
        this.hint = answer.error;
        this.held = "";
        return;
      }
      page.stage.place(answer.poses);
      page.stage.canvas.dataset.solved = String(Number(page.stage.canvas.dataset.solved || 0) + 1);
      this.handPosed = true;
      this.hint =
        answer.words || (this.held ? `dragging ${page.view.placed.find((p) => p.id === this.held)?.name}` : "");
      this.redrawScheme();
      if (answer.commands) {
        this.keep(answer);
        return;
      }
      if (wanted) this.send();
      else if (ended) {
        this.say({ release: true });
        ended = false;
      }
    },
    // with a drive, parts go back to where the cycle has them; without one they stay
    async keep(answer) {
      const words = answer.words || this.hint;
      this.held = "";
      if (this.view.drivers.length) {
        this.hint = `${words ? `${words}. ` : ""}Play, or move the cursor, to return to the cycle`;
        return;
      }
      this.hint = words;
      try {
        await this.command({ kind: "together", commands: answer.commands, words: "moved by hand" });
      } catch (error) {
        this.explain(error);
      }
    },

    // freedoms

    get freedoms() {
      return (this.view.mobility?.freedoms || []).map((words, number) => ({ number, words }));
    },
    async playFreedom(f) {
      this.playing = false;
      const poses = readPoses(await block(`${page.api}/revisions/${shownRevision(this.state)}/freedoms/${f.number}`));
      this.hint = f.words;
      this.handPosed = true;
      const begun = performance.now(),
        lasts = 2200;
      const run = (now) => {
        const s = Math.min(1, (now - begun) / lasts);
        page.stage.pose(poses, s * (poses.frames - 1));
        this.redrawScheme();
        if (s < 1 && this.hint === f.words) requestAnimationFrame(run);
        else {
          this.handPosed = false;
          this.showMoment();
        }
      };
      requestAnimationFrame(run);
    },
  });
}
