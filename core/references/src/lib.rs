//! Every way tried.
