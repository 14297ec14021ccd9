// Package seal makes and reads the secret parts of addresses: they are computed with the secret of the house and kept
// nowhere, so whoever reads the database alone cannot make one.
package seal

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
)

// Size is how many bytes of a seal stand in an address: the first half of HMAC-SHA-256 (RFC 2104).
const Size = 16

// Of is the seal over what something is for and what it is about.
func Of(secret []byte, what string, about ...[]byte) []byte {
	m := hmac.New(sha256.New, secret)
	m.Write([]byte(what))
	for _, b := range about {
		m.Write(b)
	}
	return m.Sum(nil)[:Size]
}

// Key is what it is about with a seal over it and over what is not shown, such as how often it was renewed, as it
// stands in an address.
func Key(secret []byte, what string, about []byte, hidden ...[]byte) string {
	s := Of(secret, what, append([][]byte{about}, hidden...)...)
	return base64.RawURLEncoding.EncodeToString(append(append(make([]byte, 0, len(about)+Size), about...), s...))
}

// About is what a key is about, size bytes of it; ok is false for what cannot be one. The seal is not looked at: Opens
// does that once what is hidden is known.
func About(key string, size int) (about []byte, ok bool) {
	b, err := base64.RawURLEncoding.DecodeString(key)
	if err != nil || len(b) != size+Size {
		return nil, false
	}
	return b[:size], true
}

// Opens reports whether a key is the one that Key makes of the same.
func Opens(key string, secret []byte, what string, about []byte, hidden ...[]byte) bool {
	return hmac.Equal([]byte(key), []byte(Key(secret, what, about, hidden...)))
}
