//! The command line: arguments in, text or JSON out. It joins; it does not compute.
#![forbid(unsafe_code)]

#[macro_use]
mod output;

mod advice;
mod args;
mod commands;
mod history;
mod members;

mod session;
#[cfg(test)]
mod shipped;
mod twins;

use std::process::ExitCode;

/// Trees and facts are many small pieces, made by all threads at once.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

use clap::Parser;
use output::complain;
use ufold_core::tree::STACK;
use ufold_project::Error;

fn main() -> ExitCode {
    // deep code is walked by functions that call themselves; where so much can't be had, less will do for most
    for stack in [STACK, STACK / 16] {
        let pool = rayon::ThreadPoolBuilder::new().stack_size(stack).build_global();
        if let (Ok(()), Ok(thread)) = (pool, std::thread::Builder::new().stack_size(stack).spawn(run)) {
            return thread.join().unwrap_or(ExitCode::from(5));
        }
    }
    run()
}

fn run() -> ExitCode {
    let args = match args::Args::try_parse() {
        Ok(a) => a,
        Err(e) if e.use_stderr() => return ExitCode::from(mistyped(&e)),
        Err(e) => {
            let _ = e.print();
            return ExitCode::from(0);
        }
    };
    // a fault in one plan is a refusal, which says what is to be reported
    std::panic::set_hook(Box::new(|info| {
        if std::env::var_os("UFOLD_BACKTRACE").is_some() {
            complain(&format!("{info}\n{}", std::backtrace::Backtrace::force_capture()));
        }
    }));
    let color = output::Paint::new(args.common.color);
    if args.common.format == args::Format::Json {
        output::Out::is_json();
    }
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

/// What is wrong with the arguments, said like everything else that is wrong.
fn mistyped(e: &clap::Error) -> u8 {
    let text = e.render().to_string();
    let text = text.trim_start_matches("error: ").replace("For more information, try '--help'.", "--help tells more.");
    let mut words = std::env::args_os().skip(1);
    let json = words.by_ref().any(|w| w == "--format") && words.next().is_some_and(|w| w == "json");
    if json || std::env::args_os().any(|w| w == "--format=json") {
        output::Out::is_json();
        output::json::print(&output::json::Failed::new(2, text.trim().to_string(), None));
    } else {
        complain(&format!("{} {}", output::Paint::new(args::Color::Auto).bad("ufold:"), text.trim_end()));
    }
    2
}

/// One message, and the exit code.
fn report(e: &anyhow::Error, paint: &output::Paint) -> u8 {
    let own = e.downcast_ref::<Error>();
    if output::Out::wants_json() {
        let exit = own.map_or(5, Error::exit_code);
        output::json::print(&output::json::Failed::new(exit, e.to_string(), own));
        return exit;
    }
    complain(&format!("{} {e}", paint.bad("ufold:")));
    match own {
        Some(own) => {
            if let Error::CheckFailed { output, .. } = own {
                complain(&format!("\n{output}"));
            }
            own.exit_code()
        }
        None => 5,
    }
}
