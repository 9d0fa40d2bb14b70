package record

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"

	"github.com/google/uuid"

	"earnestpony/core/tag"
	"earnestpony/internal/store"
)

func BikeWords(b store.Bike) string {
	text := ""
	for _, part := range []string{b.Make, b.Model, b.Colour} {
		if part == "" {
			continue
		}
		if text != "" {
			text += " "
		}
		text += part
	}
	return cmp.Or(text, "bike without a name")
}

// CustomerRef is whose a bike is.
type CustomerRef struct {
	ID   uuid.UUID `json:"id"`
	Name string    `json:"name"`
}

func TagOf(b store.Bike) string { return tag.Number(b.TagNumber).String() }

// ParseTag reads a tag and words its refusal.
func ParseTag(text string) (tag.Number, error) {
	n, err := tag.Parse(text)
	switch {
	case errors.Is(err, tag.ErrMistyped):
		return 0, &Problem{Kind: Invalid, Code: "tag-mistyped", Message: fmt.Sprintf("%s is mistyped: its letter does not belong to its number. Read the tag once more.", strings.ToUpper(CleanLine(text)))}
	case err != nil:
		return 0, &Problem{Kind: Invalid, Code: "not-a-tag", Message: fmt.Sprintf("%q is not a tag. A tag looks like %v.", CleanLine(text), tag.Number(186))}
	}
	return n, nil
}

// MadeTag is what a bike goes by on a device that could not ask for the next tag: found by it later, too.
var MadeTag = regexp.MustCompile(`^NEW-[0-9A-HJKMNP-TV-Z]{6}$`)

func BikeByTag(ctx context.Context, tx store.Tx, text string) (store.Bike, error) {
	if made := strings.ToUpper(CleanLine(text)); MadeTag.MatchString(made) {
		b, err := tx.BikeMadeAs(ctx, made)
		if IsNotFound(err) {
			return b, &Problem{Kind: Missing, Code: "bike-not-found", Message: fmt.Sprintf("No bike here was added as %s. It may still wait on the tablet on which it was added.", made)}
		}
		return b, err
	}
	n, err := ParseTag(text)
	if err != nil {
		return store.Bike{}, err
	}
	b, err := tx.BikeByTag(ctx, int(n))
	if IsNotFound(err) {
		return b, &Problem{Kind: Missing, Code: "bike-not-found", Message: fmt.Sprintf("No bike here has the tag %v.", n)}
	}
	return b, err
}

func BikeInCare(ctx context.Context, tx store.Tx, tagText string) (store.Bike, error) {
	bike, err := BikeByTag(ctx, tx, tagText)
	if err == nil && bike.ArchivedAt != nil {
		err = &Problem{Kind: Conflict, Code: "bike-archived", Message: "This bike is archived. Take it out of the archive first."}
	}
	return bike, err
}
