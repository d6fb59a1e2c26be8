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
use output::complain;
use ufold_project::Error;

fn main() -> ExitCode {
    let args = match args::Args::try_parse() {
        Ok(a) => a,
        Err(e) => {
            let _ = e.print();
            return ExitCode::from(if e.use_stderr() { 2 } else { 0 });
        }
    };
    // a fault in one plan is a refusal, which says what is to be reported
    std::panic::set_hook(Box::new(|info| {
        if std::env::var_os("UFOLD_BACKTRACE").is_some() {
            complain(&format!("{info}\n{}", std::backtrace::Backtrace::force_capture()));
        }
    }));
    let color = output::Paint::new(args.common.color);
    let run = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| commands::run(args)));
    let code = match run {
        Ok(Ok(code)) => code,
        Ok(Err(e)) => report(&e, &color),
        Err(_) => {
            complain("ufold: a fault of ufold ended this command; please report it with what UFOLD_BACKTRACE=1 prints");
            5
        }
    };
    ExitCode::from(output::finish(code))
}

/// One message, and the exit code.
fn report(e: &anyhow::Error, paint: &output::Paint) -> u8 {
    complain(&format!("{} {e}", paint.bad("ufold:")));
    match e.downcast_ref::<Error>() {
        Some(own) => {
            if let Error::CheckFailed { output, .. } = own {
                complain(&format!("\n{output}"));
            }
            own.exit_code()
        }
        None => 5,
    }
}
