package api

import (
	"time"

	"github.com/google/uuid"
)

// AddressUntil is a media address with the moment from which on it is worth nothing, for a use by its letter.
func (a *API) AddressUntil(expires time.Time, letter byte, recording, edition, person uuid.UUID) string {
	return a.addressUntil(expires, use(letter), recording, edition, person)
}
