//! Progress on stderr, for what takes longer than half a second and only where someone looks.

use std::io::IsTerminal;
use std::time::Duration;

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};

/// A line that says what is under way.
pub struct Progress(ProgressBar);

impl Progress {
    pub fn new(quiet: bool) -> Progress {
        let bar = ProgressBar::new_spinner();
        let shown = !quiet && std::io::stderr().is_terminal();
        bar.set_draw_target(if shown { ProgressDrawTarget::stderr_with_hz(8) } else { ProgressDrawTarget::hidden() });
        if let Ok(style) = ProgressStyle::with_template("  {msg}") {
            bar.set_style(style);
        }
        Progress(bar)
    }

    /// `what` has been going on for so long.
    pub fn tick(&self, what: &str, took: Duration) {
        if took > Duration::from_millis(500) {
            self.0.set_message(format!("{what} … {} s", took.as_secs()));
            self.0.tick();
        }
    }

    /// What is under way, from now on.
    pub fn say(&self, what: &str) {
        self.0.set_message(format!("{what} …"));
        self.0.tick();
    }

    pub fn clear(&self) {
        self.0.finish_and_clear();
    }
}

impl Drop for Progress {
    fn drop(&mut self) {
        self.clear();
    }
}
