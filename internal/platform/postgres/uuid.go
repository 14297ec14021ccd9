package postgres

import (
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgtype"
	pgxuuid "github.com/vgarvardt/pgx-google-uuid/v5"
)

// uuidCodec reads a uuid.UUID from its sixteen bytes. A uuid.UUID can also scan text, and pgx
// prefers that way to a registered wrapper: a term has tens of thousands of them.
type uuidCodec struct{ pgxuuid.UUIDCodec }

// PlanScan implements pgtype.Codec.
func (c uuidCodec) PlanScan(m *pgtype.Map, oid uint32, format int16, target any) pgtype.ScanPlan {
	if _, ok := target.(*uuid.UUID); ok && format == pgtype.BinaryFormatCode {
		return scanUUID{}
	}
	return c.UUIDCodec.PlanScan(m, oid, format, target)
}

type scanUUID struct{}

// Scan implements pgtype.ScanPlan.
func (scanUUID) Scan(src []byte, target any) error {
	id := target.(*uuid.UUID)
	if len(src) != len(id) {
		return fmt.Errorf("%d bytes are no UUID", len(src))
	}
	copy(id[:], src)
	return nil
}

func registerUUID(m *pgtype.Map) {
	pgxuuid.Register(m)
	m.RegisterType(&pgtype.Type{Name: "uuid", OID: pgtype.UUIDOID, Codec: uuidCodec{}})
}

// OrNil is id as a column that can be empty.
func OrNil(id uuid.UUID) *uuid.UUID {
	if id == uuid.Nil {
		return nil
	}
	return &id
}

// OrZero is an id, or uuid.Nil for none.
func OrZero(id *uuid.UUID) uuid.UUID {
	if id == nil {
		return uuid.Nil
	}
	return *id
}
