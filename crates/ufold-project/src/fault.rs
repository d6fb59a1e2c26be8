//! Points at which a test may kill the program, to show that what it leaves can be mended. Only in builds for tests.

#[cfg(debug_assertions)]
mod armed {
    use std::sync::atomic::{AtomicU32, Ordering};

    static PASSED: AtomicU32 = AtomicU32::new(0);

    /// `UFOLD_FAULT=N` kills the process at the N-th point that it reaches.
    pub fn point() {
        let n = PASSED.fetch_add(1, Ordering::SeqCst) + 1;
        let wanted = std::env::var("UFOLD_FAULT").ok().and_then(|v| v.parse::<u32>().ok());
        if wanted == Some(n) {
            let _ = rustix::process::kill_process(rustix::process::getpid(), rustix::process::Signal::KILL);
        }
    }
}

/// Between two things that reach the disk.
pub fn point() {
    #[cfg(debug_assertions)]
    armed::point();
}
