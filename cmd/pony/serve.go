package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"runtime/debug"
	"sync"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/core/clean"
	"earnestpony/internal/httpapi"
	"earnestpony/internal/live"
	"earnestpony/internal/localpg"
	"earnestpony/internal/outside"
	"earnestpony/internal/shop"
	"earnestpony/internal/store"
	"earnestpony/web"
)

func serveCommand() *cli.Command {
	return &cli.Command{
		Name:  "serve",
		Usage: "serve a shop",
		Description: "Brings the database's schema up to date, then serves until it is told to stop. Any number of\n" +
			"processes may serve one database. On a new one it prints a code, with which the shop is set up in the page.",
		Flags: []cli.Flag{addrFlag, databaseFlag, stateFlag, publicFlag, zoneFlag, certFlag, certKeyFlag,
			&cli.BoolFlag{Name: "simulated-gateway", Usage: "let the page answer messages as a customer would: for trying it out"},
			&cli.BoolFlag{Name: "simulated-tool", Usage: "offer a stand-in for a data caliper or gauge that types for itself"},
			&cli.BoolFlag{Name: "plan-by-tries", Usage: "plan the day by a number of tries instead of for a time: the same day on any machine, for tests"},
			&cli.Float64Flag{Name: "gateway-fails", Value: gatewayFails, Usage: "share of messages that the simulated gateway does not take, 0 to 1"}},
		Action: func(ctx context.Context, cmd *cli.Command) error {
			s, err := openStore(ctx, cmd, "shop")
			for store.IsAway(err) && ctx.Err() == nil { // it comes up with the machine, and perhaps after us
				slog.Warn("the database cannot be reached yet", "err", err)
				select {
				case <-time.After(time.Second):
				case <-ctx.Done():
				}
				s, err = openStore(ctx, cmd, "shop")
			}
			if err != nil {
				return err
			}
			defer s.Close()
			ln, err := (&net.ListenConfig{}).Listen(ctx, "tcp", cmd.String("addr"))
			if err != nil {
				return fmt.Errorf("cannot serve there, choose another address with --addr: %w", err)
			}
			ln, names, err := secured(ln, cmd)
			if err != nil {
				return err
			}
			return serve(ctx, ln, s, options{secure: names != nil, names: names, publicURL: cmd.String("public-url"), tool: cmd.Bool("simulated-tool"), replies: cmd.Bool("simulated-gateway"),
				gatewayFails: cmd.Float64("gateway-fails"), planByTries: cmd.Bool("plan-by-tries")})
		},
	}
}

// clusterName is the private server that shop and demo share; each has its own database in it.
const clusterName = "main"

// openStore opens and migrates the database that the flags name, or the one called name in a
// private server.
func openStore(ctx context.Context, cmd *cli.Command, name string) (*store.Store, error) {
	dsn := cmd.String("database")
	if dsn == "" {
		cluster, err := localpg.Find(cmd.String("state"), clusterName, false)
		if err != nil {
			return nil, err
		}
		if dsn, err = cluster.Start(ctx, name); err != nil {
			return nil, err
		}
	}
	s, err := store.Open(ctx, dsn)
	if err != nil {
		return nil, err
	}
	if err := s.Migrate(ctx); err != nil {
		s.Close()
		return nil, fmt.Errorf("bring the schema up to date: %w", err)
	}
	if err := settleZone(ctx, s, cmd.String(zoneFlag.Name)); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// memoryGoal is what a server tries to stay within, bytes: pictures being read take 256 MB of it at the most.
const memoryGoal = 400 << 20

// drainTime is how long requests that are under way may take to end when the server is stopped.
const drainTime = 10 * time.Second

// options are how a shop is served.
type options struct {
	clock        func() time.Time // a demo's; nil for the world's
	publicURL    string
	tool         bool    // a simulated measuring tool is plugged in
	replies      bool    // the page may answer messages as a customer would
	gatewayFails float64 // share of messages that the simulated gateway does not take
	planByTries  bool
	secure       bool     // over https
	names        []string // of its certificate
}

// serve serves a shop on ln until ctx ends.
func serve(ctx context.Context, ln net.Listener, s *store.Store, o options) error {
	here := "http://" + ln.Addr().String()
	if o.secure {
		here = "https://" + ln.Addr().String()
	}
	slog.Info("serving", "address", here)
	var publicURL *url.URL
	if o.publicURL != "" {
		u, err := url.Parse(o.publicURL)
		if err != nil || u.Host == "" || (u.Scheme != "https" && u.Scheme != "http") {
			return fmt.Errorf("--public-url %q is not an address such as https://pony.example", o.publicURL)
		}
		publicURL = u
	}
	if err := clean.Validate(); err != nil {
		return fmt.Errorf("step catalogue: %w", err)
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryGoal)
	}
	now := time.Now
	if o.clock != nil {
		now = o.clock
	}
	service := shop.New(s, now)
	service.KeepRealTime(time.Now)
	service.PlugInProbe(outside.Pot)
	service.PlugInWeather(outside.OfTheTown)
	if o.planByTries {
		service.PlanByTries()
	}
	if o.tool {
		service.PlugIn(outside.NewTool(uint64(time.Now().UnixNano())))
	}
	address := cmp.Or(o.publicURL, here)
	service.TellCode(func(code string) {
		fmt.Fprintf(os.Stderr, "\n  There is no shop here yet. Open %s and type this code to set one up:  %s\n\n", address, code)
	})
	service.SetBaseURL(address)
	service.PlugInGateway(outside.NewGateway(outside.Rates{Fail: o.gatewayFails, Delay: 0.3, Wait: 2 * time.Second}, service.GatewayMemory(), now, uint64(time.Now().UnixNano())))
	if o.replies {
		service.TakeReplies()
	}
	hub := &live.Hub{}
	background, stop := context.WithCancel(context.WithoutCancel(ctx))
	var running sync.WaitGroup
	defer running.Wait()
	defer stop()
	listening := make(chan struct{})
	running.Go(func() { hub.Run(background, s.Pool(), store.Channel, sync.OnceFunc(func() { close(listening) })) })
	running.Go(func() { housekeeping(background, service) })
	running.Go(func() { keepCurrent(background, service, hub) })
	select {
	case <-listening:
	case <-ctx.Done():
		return nil
	}
	handler, err := httpapi.New(httpapi.Options{
		Shop: service, Hub: hub, Page: web.Dist(), PublicURL: publicURL, Secure: o.secure, Names: o.names,
		Ready: func(ctx context.Context) error {
			current, err := s.Current(ctx)
			if err == nil && !current {
				err = errors.New("the schema is not up to date")
			}
			return err
		},
	})
	if err != nil {
		return err
	}
	if err := service.OfferSetUp(ctx); err != nil {
		return fmt.Errorf("offer the set-up: %w", err)
	}
	requests, endRequests := context.WithCancel(background)
	defer endRequests()
	server := &http.Server{
		Handler:           handler,
		ReadHeaderTimeout: 5 * time.Second,
		IdleTimeout:       2 * time.Minute,
		BaseContext:       func(net.Listener) context.Context { return requests },
	}
	server.RegisterOnShutdown(hub.Close) // event streams never end by themselves
	drained := make(chan error, 1)
	go func() {
		<-ctx.Done()
		time.AfterFunc(drainTime/2, func() {
			slog.Warn("requests that still wait are given up")
			endRequests()
		})
		grace, cancel := context.WithTimeout(background, drainTime)
		defer cancel()
		drained <- server.Shutdown(grace)
	}()
	if err := server.Serve(ln); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return <-drained // Serve returns as soon as Shutdown is called
}

// gatewayFails is how often the simulated gateway fails: now and then, as networks do.
const gatewayFails = 0.15

// tick is how long it takes at most until what a clock alone makes due is looked at.
const tick = 5 * time.Second

// keepCurrent keeps what bikes need up to date, drafts what owners are to be told and sends what is to be sent:
// whenever something was written, and as time passes.
func keepCurrent(ctx context.Context, s *shop.Service, hub *live.Hub) {
	changes, end := hub.Subscribe()
	defer end()
	ticks := time.NewTicker(tick)
	defer ticks.Stop()
	ticked, setUp := true, false
	for {
		if !setUp { // there is nothing to keep current yet
			setUp, _ = s.IsSetUp(ctx) // asked again soon
		}
		works := []func(context.Context) (int, error){s.RefreshDue, s.DraftRecalls, s.SendMessages}
		if ticked { // whoever looks at the floor plans it: behind their back it is done seldom
			works = append(works, func(ctx context.Context) (int, error) { return 0, s.RefreshDayPlan(ctx) })
		}
		for _, work := range works {
			for setUp && ctx.Err() == nil {
				n, err := work(ctx)
				if err != nil && ctx.Err() == nil {
					slog.Warn("keep current", "err", err)
				}
				if n == 0 || err != nil {
					break
				}
			}
		}
		select {
		case _, open := <-changes:
			if !open {
				return
			}
			ticked = false
		case <-ticks.C:
			ticked = true
		case <-ctx.Done():
			return
		}
	}
}

// housekeeping clears away what nobody will ask for again.
func housekeeping(ctx context.Context, s *shop.Service) {
	for {
		for what, clear := range map[string]func(context.Context) error{"old answers": s.ForgetOldAnswers, "sessions that ended": s.ForgetSessions, "ride files nobody answered": s.ForgetRideDrafts} {
			if err := clear(ctx); err != nil && ctx.Err() == nil {
				slog.Warn("clear away "+what, "err", err)
			}
		}
		select {
		case <-time.After(time.Hour):
		case <-ctx.Done():
			return
		}
	}
}
