package httpapi

import (
	"bytes"
	"context"
	"io"

	"earnestpony/internal/httpapi/apigen"
)

func (a *api) ListBikeJobs(ctx context.Context, req apigen.ListBikeJobsRequestObject) (apigen.ListBikeJobsResponseObject, error) {
	jobs, err := a.Shop.JobsOfBike(ctx, req.Tag)
	return apigen.ListBikeJobs200JSONResponse(jobs), err
}

func (a *api) OpenJob(ctx context.Context, req apigen.OpenJobRequestObject) (apigen.OpenJobResponseObject, error) {
	job, err := a.Shop.OpenJob(ctx, actor(ctx), req.Tag, *req.Body)
	return apigen.OpenJob201JSONResponse(job), err
}

func (a *api) ListJobs(ctx context.Context, _ apigen.ListJobsRequestObject) (apigen.ListJobsResponseObject, error) {
	jobs, err := a.Shop.ListJobs(ctx)
	return apigen.ListJobs200JSONResponse(jobs), err
}

func (a *api) GetJob(ctx context.Context, req apigen.GetJobRequestObject) (apigen.GetJobResponseObject, error) {
	job, err := a.Shop.Job(ctx, actor(ctx), req.Job)
	return apigen.GetJob200JSONResponse(job), err
}

func (a *api) ChangeIntake(ctx context.Context, req apigen.ChangeIntakeRequestObject) (apigen.ChangeIntakeResponseObject, error) {
	job, err := a.Shop.ChangeIntake(ctx, actor(ctx), req.Job, req.Body.Version, req.Body.Intake)
	return apigen.ChangeIntake200JSONResponse(job), err
}

func (a *api) GetJobOptions(ctx context.Context, req apigen.GetJobOptionsRequestObject) (apigen.GetJobOptionsResponseObject, error) {
	options, err := a.Shop.JobOptions(ctx, req.Job)
	return apigen.GetJobOptions200JSONResponse(options), err
}

func (a *api) PlanJob(ctx context.Context, req apigen.PlanJobRequestObject) (apigen.PlanJobResponseObject, error) {
	job, err := a.Shop.PlanJob(ctx, actor(ctx), req.Job, *req.Body)
	return apigen.PlanJob200JSONResponse(job), err
}

func (a *api) DoStep(ctx context.Context, req apigen.DoStepRequestObject) (apigen.DoStepResponseObject, error) {
	job, err := a.Shop.DoStep(ctx, actor(ctx), req.Job, req.Step, *req.Body)
	return apigen.DoStep200JSONResponse(job), err
}

func (a *api) DoBlock(ctx context.Context, req apigen.DoBlockRequestObject) (apigen.DoBlockResponseObject, error) {
	job, err := a.Shop.DoBlock(ctx, actor(ctx), req.Job, req.Block, *req.Body)
	return apigen.DoBlock200JSONResponse(job), err
}

func (a *api) AddFinding(ctx context.Context, req apigen.AddFindingRequestObject) (apigen.AddFindingResponseObject, error) {
	job, err := a.Shop.AddFinding(ctx, actor(ctx), req.Job, *req.Body)
	return apigen.AddFinding201JSONResponse(job), err
}

func (a *api) ResolveFinding(ctx context.Context, req apigen.ResolveFindingRequestObject) (apigen.ResolveFindingResponseObject, error) {
	job, err := a.Shop.ResolveFinding(ctx, actor(ctx), req.Job, req.Finding, string(req.Body.Resolution))
	return apigen.ResolveFinding200JSONResponse(job), err
}

func (a *api) AddJobPart(ctx context.Context, req apigen.AddJobPartRequestObject) (apigen.AddJobPartResponseObject, error) {
	job, err := a.Shop.AddJobPart(ctx, actor(ctx), req.Job, *req.Body)
	return apigen.AddJobPart201JSONResponse(job), err
}

func (a *api) AddNote(ctx context.Context, req apigen.AddNoteRequestObject) (apigen.AddNoteResponseObject, error) {
	job, err := a.Shop.AddNote(ctx, actor(ctx), req.Job, req.Body.Text)
	return apigen.AddNote201JSONResponse(job), err
}

func (a *api) AddJobPhoto(ctx context.Context, req apigen.AddJobPhotoRequestObject) (apigen.AddJobPhotoResponseObject, error) {
	picture, err := io.ReadAll(req.Body)
	if err != nil {
		return nil, err
	}
	job, err := a.Shop.AddJobPhoto(ctx, actor(ctx), req.Job, picture)
	return apigen.AddJobPhoto201JSONResponse(job), err
}

func (a *api) GetJobPhoto(ctx context.Context, req apigen.GetJobPhotoRequestObject) (apigen.GetJobPhotoResponseObject, error) {
	photo, err := a.Shop.JobPhoto(ctx, req.Photo, valueOr(req.Params.Small, false))
	return apigen.GetJobPhoto200ImagejpegResponse{Body: bytes.NewReader(photo), ContentLength: int64(len(photo))}, err
}

func (a *api) HandBack(ctx context.Context, req apigen.HandBackRequestObject) (apigen.HandBackResponseObject, error) {
	job, err := a.Shop.HandBackJob(ctx, actor(ctx), req.Job, *req.Body)
	return apigen.HandBack200JSONResponse(job), err
}

func (a *api) AskSignature(ctx context.Context, req apigen.AskSignatureRequestObject) (apigen.AskSignatureResponseObject, error) {
	job, err := a.Shop.AskSignature(ctx, actor(ctx), req.Job, req.Body.Version)
	return apigen.AskSignature200JSONResponse(job), err
}

func (a *api) SettlePayment(ctx context.Context, req apigen.SettlePaymentRequestObject) (apigen.SettlePaymentResponseObject, error) {
	job, err := a.Shop.SettlePayment(ctx, actor(ctx), req.Job, req.Body.Version, req.Body.Paid)
	return apigen.SettlePayment200JSONResponse(job), err
}

func (a *api) CancelJob(ctx context.Context, req apigen.CancelJobRequestObject) (apigen.CancelJobResponseObject, error) {
	job, err := a.Shop.CancelJob(ctx, actor(ctx), req.Job, req.Body.Version, req.Body.Reason)
	return apigen.CancelJob200JSONResponse(job), err
}

func (a *api) ReopenJob(ctx context.Context, req apigen.ReopenJobRequestObject) (apigen.ReopenJobResponseObject, error) {
	job, err := a.Shop.ReopenJob(ctx, actor(ctx), req.Job, req.Body.Version)
	return apigen.ReopenJob200JSONResponse(job), err
}

func (a *api) GetJobWords(context.Context, apigen.GetJobWordsRequestObject) (apigen.GetJobWordsResponseObject, error) {
	return apigen.GetJobWords200JSONResponse(a.Shop.JobWords()), nil
}

func (a *api) ListWaits(ctx context.Context, _ apigen.ListWaitsRequestObject) (apigen.ListWaitsResponseObject, error) {
	waits, err := a.Shop.Waits(ctx)
	return apigen.ListWaits200JSONResponse(waits), err
}

func (a *api) StartWait(ctx context.Context, req apigen.StartWaitRequestObject) (apigen.StartWaitResponseObject, error) {
	waits, err := a.Shop.StartWait(ctx, actor(ctx), *req.Body)
	return apigen.StartWait201JSONResponse(waits), err
}

func (a *api) DoWait(ctx context.Context, req apigen.DoWaitRequestObject) (apigen.DoWaitResponseObject, error) {
	waits, err := a.Shop.DoWait(ctx, actor(ctx), req.Wait, *req.Body)
	return apigen.DoWait200JSONResponse(waits), err
}

func (a *api) PlanCleaning(ctx context.Context, req apigen.PlanCleaningRequestObject) (apigen.PlanCleaningResponseObject, error) {
	plan, err := a.Shop.PlanCleaning(ctx, req.Tag, *req.Body)
	return apigen.PlanCleaning200JSONResponse(plan), err
}

func (a *api) LearnedMinutes(ctx context.Context, _ apigen.LearnedMinutesRequestObject) (apigen.LearnedMinutesResponseObject, error) {
	steps, err := a.Shop.LearnedMinutes(ctx)
	return apigen.LearnedMinutes200JSONResponse(steps), err
}
