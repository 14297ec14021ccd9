package postgres

// MigrationsOf is migrationsOf for tests of single steps.
var MigrationsOf = migrationsOf
