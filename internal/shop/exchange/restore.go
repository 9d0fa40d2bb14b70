package exchange

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"sync"
	"time"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// restoring keeps two backups from being read in at once.
var restoring sync.Mutex

// RestoreShop makes the shop of a backup, in a database that holds none. It reads the whole backup before it touches anything,
// and says when it was made and what it holds.
func (s *Exchange) RestoreShop(ctx context.Context, backup io.Reader) (made time.Time, holds store.Contents, err error) {
	f, err := os.CreateTemp("", "pony-restore-*")
	if err != nil {
		return made, holds, err
	}
	defer func() { _ = errors.Join(f.Close(), os.Remove(f.Name())) }()
	size, err := io.Copy(f, backup)
	if err != nil {
		return made, holds, err
	}
	read, err := store.OpenBackup(f, size)
	if err != nil {
		return made, holds, notRestored(err)
	}
	restoring.Lock()
	defer restoring.Unlock()
	if err := s.desk.Store.Restore(ctx, read); err != nil {
		return made, holds, notRestored(err)
	}
	return read.MadeAt, read.Contents, nil
}

// notRestored says why a backup was not read in. What is wrong with the database alone is for the log.
func notRestored(err error) error {
	if store.IsAway(err) {
		return err
	}
	text := fmt.Sprint(err)
	return &record.Problem{Kind: record.Invalid, Code: "not-restored", Message: strings.ToUpper(text[:1]) + text[1:] + ". Nothing was changed."}
}
