//! `completions`.

use std::io::Write;

use clap::CommandFactory;

pub fn run(shell: clap_complete::Shell) -> anyhow::Result<u8> {
    // written at once: a reader that stops is no fault
    let mut text = Vec::new();
    clap_complete::generate(shell, &mut crate::args::Args::command(), "ufold", &mut text);
    crate::output::out().write_all(&text)?;
    Ok(0)
}
