"""How well the painter guesses, day by day."""

from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.guess_parts import ScoreCurve
from culmo.desk.session import Session
from culmo.desk.widgets import Slip, rule, text_label, title_label
from culmo.study.guess_acts import drawn_pairs, guess_days
from culmo.words import tr, trn


@guarded
class ScoreSlip(Slip):
    """The score, and what is asked for."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.lines.addWidget(title_label(tr("Your eye"), 17))
        self.score_words = text_label("", soft=True)
        self.curve = ScoreCurve()
        self.lines.addWidget(self.score_words)
        self.lines.addWidget(self.curve)
        self.curve_words = text_label(tr("the mean difference of a day's guesses"), soft=True, points=10)
        self.lines.addWidget(self.curve_words)
        self.lines.addWidget(rule())
        self.lines.addWidget(
            text_label(
                tr(
                    "What you painted and read is asked for first; it is the answer too. What you did not paint yet is "
                    "asked only of paints that you have read, as Culmo has learned them. A paint that is known from its "
                    "label only is never asked for."
                ),
                soft=True,
            )
        )
        self.lines.addWidget(
            text_label(
                tr(
                    "A pair to paint is drawn by chance. Guess how it will look, paint it, read it: the painted cell "
                    "answers."
                ),
                soft=True,
            )
        )
        self.lines.addStretch(1)

    def look(self) -> None:
        """Count again."""
        study = self._session.study
        days = guess_days(study, drawn_pairs(study)) if study is not None else []
        self.curve.show_days(days)
        self.curve.setVisible(bool(days))
        self.curve_words.setVisible(bool(days))
        if not days:
            self.score_words.setText(
                tr("No guess yet. Each answer counts, the wrong ones most: they show where to look.")
            )
            return
        count = sum(day.count for day in days)
        right = sum(day.right for day in days)
        last = days[-1]
        self.score_words.setText(
            trn(
                "{n} guess, {right} right to the eye; on the last day off by {away:.1f} on average.",
                "{n} guesses, {right} right to the eye; on the last day off by {away:.1f} on average.",
                count,
                right=right,
                away=last.away,
            )
        )
