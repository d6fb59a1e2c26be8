//! The command line: arguments in, text or JSON out. It joins; it does not compute.
#![forbid(unsafe_code)]

#[macro_use]
mod output;

mod args;
mod commands;

mod session;
#[cfg(test)]
mod shipped;

use std::process::ExitCode;

use clap::Parser;
use ufold_project::Error;

fn main() -> ExitCode {
    let args = match args::Args::try_parse() {
        Ok(a) => a,
        Err(e) => {
            let _ = e.print();
            return ExitCode::from(if e.use_stderr() { 2 } else { 0 });
        }
    };
    let color = output::Paint::new(args.common.color);
    match commands::run(args) {
        Ok(code) => ExitCode::from(code),
        Err(e) => ExitCode::from(report(&e, &color)),
    }
}

/// One message, and the exit code.
fn report(e: &anyhow::Error, paint: &output::Paint) -> u8 {
    if e.downcast_ref::<std::io::Error>().is_some_and(|e| e.kind() == std::io::ErrorKind::BrokenPipe) {
        return 0;
    }
    eprintln!("{} {e}", paint.bad("ufold:"));
    match e.downcast_ref::<Error>() {
        Some(own) => {
            if let Error::CheckFailed { output, .. } = own {
                eprintln!("\n{output}");
            }
            own.exit_code()
        }
        None => 5,
    }
}
