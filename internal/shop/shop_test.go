package shop_test

import (
	"context"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// open returns a shop with one mechanic, and the clock that the test moves.
func open(t *testing.T) (*shop.Service, record.Actor, *time.Time) {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	now := time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC)
	service := shop.New(s, func() time.Time { return now })
	service.PlanByTries()
	service.HashAtNoCost()
	databases.Store(service, s)
	t.Cleanup(func() { databases.Delete(service) })
	require.NoError(t, service.SetUp(ctx, rules.NewShop{Name: "Tidewrack Lane", TimeZone: "UTC", Tools: rules.HouseTools()}))
	mira, err := service.AddPerson(ctx, "Mira Oxenholt", "mechanic", "2718")
	require.NoError(t, err)
	who, err := service.Actor(ctx, mira, "stand 1")
	require.NoError(t, err)
	return service, who, &now
}

// code returns the code of a problem, and fails the test for any other outcome.
func code(t *testing.T, err error) string {
	t.Helper()
	var p *record.Problem
	require.ErrorAs(t, err, &p)
	assert.NotEmpty(t, p.Message)
	return p.Code
}

func TestSettingUpOnce(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _, _ := open(t)
	assert.ErrorIs(t, s.SetUp(ctx, rules.NewShop{Name: "Another", TimeZone: "UTC"}), rules.ErrSetUp)
	ready, err := s.IsSetUp(ctx)
	require.NoError(t, err)
	assert.True(t, ready)
	tools, err := s.Instruments(ctx, false)
	require.NoError(t, err)
	require.Len(t, tools, 6, "one tool of every kind")
	for _, tool := range tools {
		assert.Equal(t, tool.Kind != "pull-off", tool.ZeroCheckDue, "%s: a zero never checked is flagged", tool.Name)
	}
	_, err = s.AddPerson(ctx, "MIRA oxenholt", "mechanic", "4669")
	assert.Equal(t, "name-taken", code(t, err))
	_, err = s.AddPerson(ctx, "Wenna", "owner", "27182818")
	assert.Equal(t, "invalid-input", code(t, err), "the owner's password is longer than a PIN")
	for _, pin := range []string{"1111", "1234", "9876", "271", "271828182", "27a8"} {
		_, err = s.AddPerson(ctx, "Posy Peake", "apprentice", pin)
		assert.Equal(t, "invalid-input", code(t, err), pin)
	}
}

func TestCustomerComesAndGoes(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, mira, _ := open(t)
	for field, facts := range map[string]record.CustomerFacts{
		"facts.name":  {Name: "  \t "},
		"facts.email": {Name: "A", Email: "A <a@b.example>"},
		"facts.phone": {Name: "A", ContactWay: "message"},
	} {
		_, err := s.AddCustomer(ctx, mira, facts)
		var p *record.Problem
		require.ErrorAs(t, err, &p)
		require.Len(t, p.Fields, 1)
		assert.Equal(t, field, p.Fields[0].Path)
	}
	c, err := s.AddCustomer(ctx, mira, record.CustomerFacts{Name: " Quillon\x07 Dace ", Phone: "0555"})
	require.NoError(t, err)
	assert.Equal(t, "Quillon Dace", c.Facts.Name, "typed lines are tidied")
	bike, err := s.AddBike(ctx, mira, bikes.NewBike{CustomerID: c.ID})
	require.NoError(t, err)

	_, err = s.ArchiveCustomer(ctx, mira, c.ID, 1, true)
	assert.Equal(t, "has-bikes", code(t, err))
	_, err = s.ArchiveBike(ctx, mira, bike.Tag, 1, true)
	require.NoError(t, err)
	gone, err := s.ArchiveCustomer(ctx, mira, c.ID, 1, true)
	require.NoError(t, err)
	assert.True(t, gone.Archived)
	same, err := s.ArchiveCustomer(ctx, mira, c.ID, gone.Version, true)
	require.NoError(t, err)
	assert.Equal(t, gone, same, "archiving what is archived changes nothing")

	// A bike cannot come back to an owner who is away, nor can one be added.
	_, err = s.ArchiveBike(ctx, mira, bike.Tag, 2, false)
	assert.Equal(t, "invalid-input", code(t, err))
	_, err = s.AddBike(ctx, mira, bikes.NewBike{CustomerID: c.ID})
	assert.Equal(t, "invalid-input", code(t, err))
	found, err := s.FindCustomers(ctx, "dace", false, nil, 10)
	require.NoError(t, err)
	assert.Empty(t, found.Customers)
	found, err = s.FindCustomers(ctx, "0555 DACE", true, nil, 10)
	require.NoError(t, err)
	assert.Len(t, found.Customers, 1)
	assert.Equal(t, 1, found.Total)

	_, err = s.ArchiveCustomer(ctx, mira, c.ID, 1, false)
	assert.Equal(t, "changed-meanwhile", code(t, err))
	back, err := s.ArchiveCustomer(ctx, mira, c.ID, gone.Version, false)
	require.NoError(t, err)
	changed, err := s.ChangeCustomer(ctx, mira, c.ID, back.Version, record.CustomerFacts{Name: "Quillon Dace-Umber"})
	require.NoError(t, err)
	assert.Empty(t, changed.Facts.Phone, "a fact can be taken out")
	with, err := s.Customer(ctx, c.ID)
	require.NoError(t, err)
	assert.Equal(t, changed, with.Customer)
	require.Len(t, with.Bikes, 1)
	assert.Equal(t, "Quillon Dace-Umber", with.Bikes[0].Customer.Name)
}

func TestBikeChangesHandsAndKeepsItsLedger(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, mira, now := open(t)
	first, err := s.AddCustomer(ctx, mira, record.CustomerFacts{Name: "Casimir Ogle"})
	require.NoError(t, err)
	second, err := s.AddCustomer(ctx, mira, record.CustomerFacts{Name: "Bryony Tallisker"})
	require.NoError(t, err)
	bike, err := s.AddBike(ctx, mira, bikes.NewBike{CustomerID: first.ID, Facts: record.BikeFacts{Make: "Pellowe", RingTeeth: []int{50, 34}, Notes: "rings from his brother"}})
	require.NoError(t, err)
	assert.Equal(t, []int{34, 50}, bike.Facts.RingTeeth, "teeth are kept smallest first")
	*now = now.Add(time.Hour)
	same, err := s.ChangeBike(ctx, mira, bike.Tag, 1, bikes.NewBike{CustomerID: first.ID, Facts: bike.Facts})
	require.NoError(t, err)
	assert.Equal(t, 1, same.Version, "nothing changed, nothing written")
	moved, err := s.ChangeBike(ctx, mira, bike.Tag, 1, bikes.NewBike{CustomerID: second.ID, Facts: record.BikeFacts{Make: "Pellowe", Motor: "mid"}})
	require.NoError(t, err)
	assert.Equal(t, "Bryony Tallisker", moved.Customer.Name)
	// An owner who is new comes with the bike, or not at all.
	for _, n := range []bikes.NewBike{
		{Customer: &record.CustomerFacts{Name: " Quillon Dace "}, Facts: record.BikeFacts{ChainLinks: ptr(3)}},
		{Customer: &record.CustomerFacts{Name: " ", Phone: "0555"}},
		{Customer: &record.CustomerFacts{Name: "Quillon Dace"}, CustomerID: second.ID},
		{},
	} {
		_, err = s.AddBike(ctx, mira, n)
		assert.Equal(t, "invalid-input", code(t, err))
	}
	all, err := s.FindCustomers(ctx, "dace", false, nil, 10)
	require.NoError(t, err)
	assert.Empty(t, all.Customers)
	once := mira
	once.Key = "dace-and-bike"
	for range 2 { // sent twice, added once
		added, err := s.AddBike(ctx, once, bikes.NewBike{Customer: &record.CustomerFacts{Name: " Quillon Dace "}})
		require.NoError(t, err)
		assert.Equal(t, "Quillon Dace", added.Customer.Name)
	}
	all, err = s.FindCustomers(ctx, "dace", false, nil, 10)
	require.NoError(t, err)
	assert.Len(t, all.Customers, 1)
	page, err := s.Ledger(ctx, bike.Tag, 0, 10)
	require.NoError(t, err)
	require.Len(t, page.Entries, 2)
	assert.Equal(t, []string{"motor", "notes", "ring_teeth", "owner"}, page.Entries[0].Changed)
	assert.True(t, now.Equal(page.Entries[0].HappenedAt))

	_, err = s.RecordMeasurement(ctx, mira, bike.Tag, measure.NewMeasurement{TakenAt: ptr(now.Add(time.Hour))})
	assert.Equal(t, "invalid-input", code(t, err), "nothing is read in the future")
}

// A first answer is kept as long as a tablet may be away, and not for ever.
func TestFirstAnswersAreForgottenInTime(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, mira, now := open(t)
	mira.Key = "the-same-key"
	add := func() bikes.Customer {
		c, err := s.AddCustomer(ctx, mira, record.CustomerFacts{Name: "Rosamund Pike-Hollow"})
		require.NoError(t, err)
		return c
	}
	first := add()
	require.NoError(t, s.ForgetOldAnswers(ctx))
	assert.Equal(t, first, add(), "a tablet that was away for a while still gets its answer")
	*now = now.Add(15 * 24 * time.Hour)
	require.NoError(t, s.ForgetOldAnswers(ctx))
	assert.NotEqual(t, first.ID, add().ID, "after a fortnight it is another write")
}

func ptr[T any](v T) *T { return &v }

// databases are those of the services under test.
var databases sync.Map

func databaseOf(t *testing.T, s *shop.Service) *store.Store {
	t.Helper()
	db, known := databases.Load(s)
	require.True(t, known)
	return db.(*store.Store)
}
