//! Dry Anvil, as it is run: see [`dry_anvil::cli`].

fn main() -> std::process::ExitCode {
    dry_anvil::cli::main()
}
