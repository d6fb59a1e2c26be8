//! The command that runs a project's tests.

use super::CSharp;
use crate::lang::{Layout, Suites};

impl Suites for CSharp {
    fn test_command(&self, layout: &dyn Layout) -> Option<String> {
        let ends = |folder: &str, end: &str| layout.names_in(folder).iter().any(|n| n.ends_with(end));
        let built =
            ["", "src", "tests", "test"].iter().any(|f| ends(f, ".sln") || ends(f, ".csproj") || ends(f, ".slnx"));
        built.then(|| "dotnet test --nologo".to_string())
    }
}
