//! `completions`.

use clap::CommandFactory;

pub fn run(shell: clap_complete::Shell) -> anyhow::Result<u8> {
    clap_complete::generate(shell, &mut crate::args::Args::command(), "ufold", &mut std::io::stdout());
    Ok(0)
}
