//! The layouts of test suites that are known: PHPUnit by its settings, a script that runs all tests.

use crate::lang::Layout;

pub fn command(layout: &dyn Layout) -> Option<String> {
    let configured = ["phpunit.xml", "phpunit.xml.dist", "phpunit.dist.xml"].iter().any(|p| layout.exists(p));
    if configured {
        let own = layout.exists("vendor/bin/phpunit");
        let runner = if own { "vendor/bin/phpunit" } else { "phpunit" };
        return Some(format!("{runner} --log-junit {{report}}"));
    }
    let scripts = ["tests/run.php", "test/run.php", "tests/all.php"];
    scripts.iter().find(|p| layout.exists(p)).map(|p| format!("php {p}"))
}
