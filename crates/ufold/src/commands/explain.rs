//! `explain`: what a reason code means, an example, and what to do.

use ufold_core::change::Code;
use ufold_project::Error;

use crate::advice::advice;
use crate::args::Common;
use crate::output::Paint;

pub fn run(common: &Common, code: Option<&str>) -> anyhow::Result<u8> {
    let Some(code) = code else {
        Code::ALL.iter().for_each(|c| say!("{c}"));
        return Ok(0);
    };
    let Some(a) = code.parse().ok().and_then(advice) else {
        let near = Code::ALL.iter().map(|c| c.word()).filter(|c| c.contains(code)).collect::<Vec<_>>().join(", ");
        let hint = if near.is_empty() { "`ufold explain` lists them".to_string() } else { format!("there is {near}") };
        return Err(Error::Usage(format!("there is no code {code}; {hint}")).into());
    };
    let paint = Paint::new(common.color);
    if common.format == crate::args::Format::Json {
        say!(
            "{}",
            serde_json::json!({ "schema": "ufold.explain/1", "code": code, "meaning": a.meaning, "example": a.example, "advice": a.what_to_do })
        );
        return Ok(0);
    }
    say!("{}\n\n{}\n\n{} {}\n\n{}", paint.strong(code), a.meaning, paint.faint("Example:"), a.example, a.what_to_do);
    Ok(0)
}
