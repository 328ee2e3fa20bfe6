"""Figures as contrasts of students, who vary, in classes, which vary too; schools are fixed."""
