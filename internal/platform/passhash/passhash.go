// Package passhash keeps what people type to prove who they are, so that it cannot be read from what is kept.
package passhash

import (
	"fmt"

	"github.com/alexedwards/argon2id"
)

// params are OWASP's second recommendation for Argon2id (RFC 9106).
var params = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// None is a hash that nothing matches. To compare with it takes as long as with any.
const None = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// Of is a password as it is kept.
func Of(text string) (string, error) {
	h, err := argon2id.CreateHash(text, params)
	if err != nil {
		return "", fmt.Errorf("hash a password: %w", err)
	}
	return h, nil
}

// Matches reports whether hash is of text.
func Matches(text, hash string) bool {
	ok, err := argon2id.ComparePasswordAndHash(text, hash)
	return err == nil && ok
}
