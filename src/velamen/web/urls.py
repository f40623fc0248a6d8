"""Addresses of the application."""

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import (
    LoginView,
    LogoutView,
    PasswordResetCompleteView,
    PasswordResetConfirmView,
    PasswordResetDoneView,
    PasswordResetView,
)
from django.urls import include, path, reverse_lazy

from velamen.web import health
from velamen.web.accounts import entry, people_views
from velamen.web.accounts import views as accounts
from velamen.web.board import bin as bin_
from velamen.web.board import shop
from velamen.web.board import views as board
from velamen.web.handover import views as handover
from velamen.web.library import shelf
from velamen.web.library import views as library
from velamen.web.stages import (
    brief,
    guiding,
    live,
    needling,
    proving,
    stacking,
    stitch_parts,
    tracing,
    tryouts,
    under_way,
)
from velamen.web.stages import views as stages
from velamen.web.stages.parts import PartsView

job_patterns = [
    path("brief/", brief.BriefView.as_view(), name="brief"),
    path("brief/follows/", brief.follows, name="brief-follows"),
    path("brief/fix/", brief.fix_brief, name="fix-brief"),
    path("artwork/", stages.ArtworkView.as_view(), name="artwork"),
    path("artwork/edit/", stages.edit_shapes, name="edit-shapes"),
    path("artwork/copy/", stages.copy_shapes, name="copy-shapes"),
    path("artwork/after/", stages.thinned, name="shapes-after"),
    path("artwork/parts/<slug:key>/", PartsView.as_view(), name="parts"),
    path("artwork/stitches/<slug:key>/", stitch_parts.StitchPartsView.as_view(), name="stitch-parts"),
    path("artwork/stitches/<slug:key>/rows.bin", stitch_parts.parts_data, name="stitch-rows"),
    path("artwork/stitches/<slug:key>/cut.svg", stitch_parts.parts_cut, {"name": "cut.svg"}, name="parts-cut-svg"),
    path("artwork/stitches/<slug:key>/cut.dxf", stitch_parts.parts_cut, {"name": "cut.dxf"}, name="parts-cut-dxf"),
    path("artwork/trace/", tracing.trace_page, name="trace"),
    path("artwork/trace/preview/", tracing.trace_preview, name="trace-preview"),
    path("artwork/trace/take/", tracing.take_trace, name="take-trace"),
    path("artwork/picture/<slug:key>.webp", tracing.source_image, name="source-image"),
    path("build/", stages.build, name="build"),
    path("prove/", proving.prove, name="prove"),
    path("prove/density.png", proving.density_image, name="density"),
    path("prove/cloth.png", proving.cloth_image, name="cloth"),
    path("prove/mends/", proving.finding_mends, name="finding-mends"),
    path("prove/mend/", proving.mend, name="mend"),
    path("hand-over/", handover.hand_over, name="hand-over"),
    path("plan.bin", stages.plan_data, name="plan"),
    path("section.json", stages.section_data, name="section"),
    path("picture.svg", board.picture, name="picture"),
    path("bin/", bin_.put_in, name="put-in-bin"),
    path("pieces/<slug:piece>/", stages.piece_panel, name="piece"),
    path("pieces/<slug:piece>/value/", stages.set_value, name="set-value"),
    path("pieces/<slug:piece>/local/", stages.set_local, name="set-local"),
    path("pieces/<slug:piece>/guide/", guiding.set_guide, name="set-guide"),
    path("pieces/<slug:piece>/stops/", guiding.set_stops, name="set-stops"),
    path("pieces/<slug:piece>/led/", guiding.led, name="led"),
    path("pieces/<slug:piece>/needles.bin", needling.needle_data, name="needle-data"),
    path("pieces/<slug:piece>/needles/", needling.edit_needles, name="edit-needles"),
    path("pieces/<slug:piece>/needles/turn/", needling.turn_into_needles, name="turn-into-needles"),
    path("pieces/<slug:piece>/needles/keep/", needling.keep_points, name="keep-points"),
    path("pieces/<slug:piece>/makeup/", stages.set_makeup, name="set-makeup"),
    path("pieces/<slug:piece>/live/", live.set_live, name="set-live"),
    path("try-outs/", tryouts.ask, name="try-outs"),
    path("try-outs/begin/", tryouts.begin, name="begin-try-out"),
    path("try-outs/<str:token>/", tryouts.show, name="try-out"),
    path("try-outs/<str:token>/<int:nth>.png", tryouts.picture, name="try-picture"),
    path("try-outs/<str:token>/<int:nth>/keep/", tryouts.keep, name="keep-try-out"),
    path("stack/saves/", stacking.stack_saves, name="stack-saves"),
    path("stack/", stacking.edit_stack, name="edit-stack"),
    path("pieces/<slug:piece>/sewing/", stacking.set_sewing, name="set-sewing"),
    path("pieces/<slug:piece>/route/", stages.set_route, name="set-route"),
    path("pieces/<slug:piece>/fix/", proving.apply_fix, name="apply-fix"),
    path("pieces/<slug:piece>/preset/", stages.take_preset, name="take-preset"),
    path("pieces/<slug:piece>/preset/save/", stages.save_preset, name="save-preset"),
    path("pieces/<slug:piece>/motif/keep/", stages.keep_motif, name="keep-motif"),
    path("pieces/<slug:piece>/recipe/keep/", stacking.keep_recipe, name="keep-recipe"),
    path("under-way/", under_way.UnderWayView.as_view(), name="job-under-way"),
    path("undo/", stages.undo, name="undo"),
    path("redo/", stages.redo, name="redo"),
    path("take/<int:number>/", stages.take, name="take"),
    path("hand-over/copies/", handover.set_copies, name="set-copies"),
    path("hand-over/wanted/", handover.set_wanted, name="set-wanted"),
    path("hand-over/freeze/", handover.freeze, name="freeze"),
    path("hand-over/<int:number>/differs/", handover.differs, name="differs"),
    path("hand-over/<int:number>/<str:name>", handover.frozen_file, name="frozen-file"),
    path("files/<str:name>", handover.download, name="file"),
]

library_patterns = [
    path("", library.listing, name="library"),
    path("presets/", library.presets, name="presets"),
    path("presets/<int:preset>/remove/", library.remove_preset, name="remove-preset"),
    path("recipes/", shelf.recipe_shelf, name="recipes"),
    path("recipes/<slug:key>.png", shelf.recipe_picture, name="recipe-picture"),
    path("recipes/<int:recipe>/remove/", shelf.remove_recipe, name="remove-recipe"),
    path("typefaces/", shelf.TypefacesView.as_view(), name="typefaces"),
    path("typefaces/judged/", shelf.typefaces_judged, name="typefaces-judged"),
    path("typefaces/<slug:key>/remove/", shelf.remove_typeface, name="remove-typeface"),
    path("rules/", library.rule_table, name="rules"),
    path("<slug:kind>/", library.listing, name="library"),
    path("<slug:kind>/<slug:key>/", library.RowView.as_view(), name="row"),
    path("<slug:kind>/<slug:key>/restore/", library.restore, name="restore-row"),
]

people_patterns = [
    path("", people_views.show, name="people"),
    path("invite/", people_views.invite, name="invite"),
    path("invitations/<int:invitation>/take-back/", people_views.take_back, name="take-back"),
    path("<int:member>/role/", people_views.set_role, name="set-role"),
    path("<int:member>/remove/", people_views.remove, name="remove-person"),
]

account_patterns = [
    path("", accounts.AccountView.as_view(), name="account"),
    path("sessions/end/", accounts.end_session, name="end-session"),
    path("sessions/end-others/", accounts.end_others, name="end-others"),
]

reset_patterns = [
    path("", login_not_required(PasswordResetView.as_view(
        template_name="accounts/reset.html", email_template_name="accounts/reset.txt",
        subject_template_name="accounts/reset_subject.txt", success_url=reverse_lazy("reset-sent"))), name="reset"),
    path("sent/", login_not_required(PasswordResetDoneView.as_view(template_name="accounts/reset_sent.html")),
         name="reset-sent"),
    path("<uidb64>/<token>/", login_not_required(PasswordResetConfirmView.as_view(
        template_name="accounts/reset_set.html", success_url=reverse_lazy("reset-done"))), name="reset-set"),
    path("done/", login_not_required(PasswordResetCompleteView.as_view(template_name="accounts/reset_done.html")),
         name="reset-done"),
]  # fmt: skip

urlpatterns = [
    path(
        "sign-in/",
        login_not_required(
            LoginView.as_view(
                template_name="accounts/sign_in.html",
                redirect_authenticated_user=True,
                extra_context={"sign_up": settings.SIGN_UP},
            )
        ),
        name="sign-in",
    ),
    path("sign-up/", entry.SignUpView.as_view(), name="sign-up"),
    path("join/<str:secret>/", entry.JoinView.as_view(), name="join"),
    path("password/", include(reset_patterns)),
    path("people/", include(people_patterns)),
    path("account/", include(account_patterns)),
    path("healthz", health.healthz, name="healthz"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("", board.board, name="board"),
    path("shop/bin/", shop.put_in, name="put-shop-in-bin"),
    path("shop/back/", shop.put_back, name="shop-back"),
    path("shop/export/", shop.export, name="export-shop"),
    path("bin/", bin_.show, name="bin"),
    path("bin/<int:job_id>/back/", bin_.put_back, name="put-back"),
    path("bin/<int:job_id>/delete/", bin_.delete, name="delete-job"),
    path("under-way/", under_way.UnderWayView.as_view(), name="under-way"),
    path("units/", accounts.set_unit, name="set-unit"),
    path("library/", include(library_patterns)),
    path("jobs/new/", board.NewJobView.as_view(), name="new-job"),
    path("jobs/<int:job_id>/", include(job_patterns)),
]
handler400 = "velamen.web.stages.errors.bad_request"
handler403 = "velamen.web.stages.errors.forbidden"
handler500 = "velamen.web.health.fault"
handler404 = "velamen.web.board.views.not_found"
