package shop_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/outside"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/store"
)

// What is not sent yet says what is due when it is read: what was done meanwhile is no longer asked for, and where
// nothing is left, nobody is told.
func TestDraftsFollowWhatIsDue(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	sent := 0
	b.PlugInGateway(gatewayFunc(func(outside.Message) error { sent++; return nil }))
	first := func() contact.Message {
		t.Helper()
		all, err := b.Messages(ctx, nil, 60)
		require.NoError(t, err)
		return all.Messages[0]
	}
	done := func(codes ...string) {
		t.Helper()
		for _, task := range codes {
			require.NoError(t, b.TaskDone(ctx, b.mira, b.tag, task, "", nil))
		}
	}
	everything := func() {
		t.Helper()
		for _, task := range b.due().Tasks {
			switch {
			case task.State != "due" && task.State != "overdue":
			case task.Code == "read-wear":
				b.read(0, "0.1")
			case task.Code == "replace-chain":
				b.fit(0)
			default:
				done(task.Code)
			}
		}
	}
	drafted, err := b.DraftRecall(ctx, b.mira, b.tag)
	require.NoError(t, err)
	require.Contains(t, drafted.Codes, "relubricate")
	done("relubricate")
	_, err = b.DoMessage(ctx, b.mira, drafted.ID, contact.MessageAction{Action: "send", Version: drafted.Version, Body: drafted.Body})
	assert.Equal(t, "changed-meanwhile", code(t, err), "what somebody saw is due no longer")
	now := first()
	assert.NotContains(t, now.Codes, "relubricate")
	assert.NotContains(t, now.Body, "lubricating")
	assert.Contains(t, now.Body, "wash")

	everything()
	gone := first()
	assert.Equal(t, []any{store.MessageWithdrawn, true, "nothing of it is due any more"}, []any{gone.State, gone.Moot, gone.LastError})

	// Sent, and overtaken before the hour at which owners are told.
	b.later(60)
	again, err := b.DraftRecall(ctx, b.mira, b.tag)
	require.NoError(t, err)
	again, err = b.DoMessage(ctx, b.mira, again.ID, contact.MessageAction{Action: "send", Version: again.Version, Body: "In my own words: come by."})
	require.NoError(t, err)
	everything()
	*b.now = *again.NextTryAt
	_, err = b.SendMessages(ctx)
	require.NoError(t, err)
	assert.Zero(t, sent)
	assert.True(t, first().Moot)
	b.later(60)
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	tells, err := b.Customer(ctx, bike.Customer.ID)
	require.NoError(t, err)
	for _, consent := range []bool{false, true} {
		if !consent {
			_, err = b.DraftRecall(ctx, b.mira, b.tag)
			require.NoError(t, err)
		}
		tells.Customer.Facts.Consent = consent
		tells.Customer, err = b.ChangeCustomer(ctx, b.mira, bike.Customer.ID, tells.Customer.Version, tells.Customer.Facts)
		require.NoError(t, err)
		assert.Equal(t, []any{store.MessageWithdrawn, "its customer is not to be contacted any more"}, []any{first().State, first().LastError})
	}
	n, err := b.DraftRecalls(ctx)
	require.NoError(t, err)
	_, err = b.RefreshDue(ctx)
	require.NoError(t, err)
	more, err := b.DraftRecalls(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n+more, "nobody was told, so nobody is left in peace for it")
}

// What comes next is one list: for the bike, its owner's page, what its owner is told and the calendar, in the order in
// which it comes, on the same days, and what is still to come is said to come.
func TestOneListOfWhatComesNext(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	l, err := b.GiveLink(ctx, b.mira, contact.NewSecretLink{Kind: "owner", Tag: b.tag})
	require.NoError(t, err)
	c, err := b.GiveLink(ctx, b.mira, contact.NewSecretLink{Kind: "calendar-bike", Tag: b.tag})
	require.NoError(t, err)
	for _, days := range []int{0, 9, 70, 300} {
		b.later(days)
		if days == 9 {
			for _, task := range []string{"relubricate", "wash", "brakes"} {
				require.NoError(t, b.TaskDone(ctx, b.mira, b.tag, task, "", nil))
			}
		}
		what := b.due()
		var dated []due.DueTask
		for _, task := range what.Tasks {
			if task.State != "due" && task.State != "overdue" && task.DueOn != nil {
				dated = append(dated, task)
			} else {
				assert.Empty(t, dated, "what is due now comes first")
			}
		}
		assert.True(t, slices.IsSortedFunc(dated, func(a, b due.DueTask) int { return strings.Compare(*a.DueOn, *b.DueOn) }))

		page, err := b.OwnerPage(ctx, strings.TrimPrefix(l.Path, "/o/"))
		require.NoError(t, err)
		feed, err := b.Calendar(ctx, strings.TrimSuffix(strings.TrimPrefix(c.Path, "/calendar/"), ".ics"))
		require.NoError(t, err)
		calendar := strings.ReplaceAll(string(feed.Text), "\r\n ", "")
		var told []string
		for i, next := range page.Next {
			task := what.Tasks[i]
			assert.Equal(t, []any{task.State, task.DueOn}, []any{next.State, next.DueOn})
			if task.State == "due" || task.State == "overdue" {
				if !task.OnlyFollows {
					told = append(told, next.What)
				}
				assert.NotContains(t, next.What, "will")
			} else {
				assert.Contains(t, next.What, "will")
			}
			if next.DueOn != nil {
				assert.Contains(t, calendar, "DTSTART;VALUE=DATE:"+strings.ReplaceAll(*next.DueOn, "-", ""), "what is late stays on the day on which it fell due")
				assert.Contains(t, calendar, next.What)
			}
		}
		if len(told) == 0 {
			continue
		}
		m, err := b.DraftRecall(ctx, b.mira, b.tag)
		require.NoError(t, err)
		at := -1
		for _, words := range told[:min(len(told), 4)] {
			next := strings.Index(m.Body, words)
			assert.Greater(t, next, at, "%q in its order in %q", words, m.Body)
			at = next
		}
		_, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "withdraw", Version: m.Version})
		require.NoError(t, err)
	}
}
