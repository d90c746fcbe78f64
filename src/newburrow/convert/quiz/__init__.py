"""Quizzes on the new host: the nearest kind of question that it has, or a page with the questions in it."""
